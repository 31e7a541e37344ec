package table

import (
	"context"
	"errors"
	"fmt"
	"io"
	"runtime/debug"
	"sync"
)

// FaultError is a fault of the program itself: a worker that has panicked.
type FaultError struct {
	Fault any
	Stack []byte
}

func (e *FaultError) Error() string { return fmt.Sprint(e.Fault) }

// Each reads all blocks of a source and hands each to work, on as many
// goroutines as workers says, and then to done, in block order on the calling
// goroutine. The worker's number, from 0, lets work keep something per goroutine.
// A nil done means that the order does not matter. Each returns the first error.
func Each(ctx context.Context, src Source, workers int, work func(worker int, b *Block),
	done func(b *Block) error,
) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	type job struct {
		block *Block
		ready chan struct{}
	}
	// A worker reads the block that it works on, so that the text stays in the memory
	// that is nearest to its processor. Only one reads at a time.
	inFlight := workers + 2
	free := make(chan *job, inFlight)
	for range inFlight {
		free <- &job{block: &Block{}, ready: make(chan struct{}, 1)}
	}
	order := make(chan *job, inFlight)
	var (
		reading sync.Mutex
		seq     int
		ended   bool
		readErr error // seen by whoever sees order closed
		group   sync.WaitGroup
		failed  = make(chan error, workers) // a worker that has come to a fault works no more
	)
	next := func() *job {
		reading.Lock()
		defer reading.Unlock()
		if ended {
			return nil
		}
		var j *job
		select {
		case j = <-free:
		case <-ctx.Done():
			ended = true
			return nil
		}
		j.block.Reset()
		j.block.Seq = seq
		if err := src.Next(j.block); err != nil {
			if !errors.Is(err, io.EOF) {
				readErr = err
			}
			ended = true
			return nil
		}
		seq++
		order <- j
		return j
	}
	for n := range workers {
		group.Go(func() {
			defer func() {
				if fault := recover(); fault != nil {
					failed <- &FaultError{fault, debug.Stack()}
				}
			}()
			for j := next(); j != nil; j = next() {
				if ctx.Err() == nil {
					src.Split(j.block)
					work(n, j.block)
				}
				j.ready <- struct{}{}
			}
		})
	}
	go func() {
		group.Wait()
		close(order)
	}()

	// A reader may wait for its source without end, so that a cancelled context
	// returns without waiting for it.
	for {
		var j *job
		var open bool
		select {
		case j, open = <-order:
		case err := <-failed:
			return err
		case <-ctx.Done():
			return ctx.Err()
		}
		if !open {
			select {
			case err := <-failed:
				return err
			default:
			}
			return errors.Join(readErr, ctx.Err())
		}
		select {
		case <-j.ready:
		case err := <-failed:
			return err
		}
		if done != nil {
			if err := done(j.block); err != nil {
				return err
			}
		}
		free <- j
	}
}
