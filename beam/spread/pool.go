package spread

import (
	"context"
	"fmt"
	"io"
	"net"
	"os"
	"os/exec"
	"sync"

	fnpb "github.com/apache/beam/sdks/v2/go/pkg/beam/model/fnexecution_v1"
	"google.golang.org/grpc"
)

// pool starts a process for each worker that a runner asks for (Beam's external worker pool).
type pool struct {
	fnpb.UnimplementedBeamFnExternalWorkerPoolServer
	program string
	err     io.Writer

	mutex   sync.Mutex
	workers map[string]*exec.Cmd
}

// Pool starts workers on this machine for a runner whose environment is EXTERNAL, at an address such as
// localhost:50000, until it is interrupted.
func Pool(ctx context.Context, address string, out, errOut io.Writer) error {
	program, err := os.Executable()
	if err != nil {
		return err
	}
	lis, err := net.Listen("tcp", address)
	if err != nil {
		return fmt.Errorf("workers can't be asked for at %s: %w", address, err)
	}
	p := &pool{program: program, err: errOut, workers: map[string]*exec.Cmd{}}
	server := grpc.NewServer()
	fnpb.RegisterBeamFnExternalWorkerPoolServer(server, p)
	fmt.Fprintf(out, "workers are asked for at %s\n", lis.Addr())
	stop := context.AfterFunc(ctx, server.Stop)
	defer stop()
	defer p.end()
	if err := server.Serve(lis); err != nil && ctx.Err() == nil {
		return err
	}
	return nil
}

// StartWorker starts a worker.
func (p *pool) StartWorker(_ context.Context, req *fnpb.StartWorkerRequest) (*fnpb.StartWorkerResponse, error) {
	cmd := exec.Command(p.program, "--worker", "--id="+req.GetWorkerId(),
		"--logging_endpoint="+req.GetLoggingEndpoint().GetUrl(), "--control_endpoint="+req.GetControlEndpoint().GetUrl())
	cmd.Stderr = p.err
	p.mutex.Lock()
	defer p.mutex.Unlock()
	if err := cmd.Start(); err != nil {
		return &fnpb.StartWorkerResponse{Error: err.Error()}, nil
	}
	p.workers[req.GetWorkerId()] = cmd
	fmt.Fprintf(p.err, "worker %s is process %d\n", req.GetWorkerId(), cmd.Process.Pid)
	return &fnpb.StartWorkerResponse{}, nil
}

// StopWorker ends a worker.
func (p *pool) StopWorker(_ context.Context, req *fnpb.StopWorkerRequest) (*fnpb.StopWorkerResponse, error) {
	p.mutex.Lock()
	defer p.mutex.Unlock()
	if cmd := p.workers[req.GetWorkerId()]; cmd != nil {
		kill(cmd)
		delete(p.workers, req.GetWorkerId())
	}
	return &fnpb.StopWorkerResponse{}, nil
}

func (p *pool) end() {
	p.mutex.Lock()
	defer p.mutex.Unlock()
	for _, cmd := range p.workers {
		kill(cmd)
	}
}

func kill(cmd *exec.Cmd) {
	_ = cmd.Process.Kill() // it may have ended by itself
	_ = cmd.Wait()
}
