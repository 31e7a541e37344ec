package spread

import (
	"errors"
	"fmt"
	"regexp"
	"strconv"
)

// The exit codes are those of junvo.
const (
	exitFailures    = 1
	exitUsage       = 2
	exitSource      = 3
	exitOutput      = 4
	exitInterrupted = 130
)

// Usage is a mistake on the command line.
type Usage struct{ Say string }

func (e *Usage) Error() string { return e.Say }

func usage(format string, args ...any) error { return &Usage{fmt.Sprintf(format, args...)} }

// code ends a command that has said by itself what is wrong.
type code int

func (c code) Error() string { return fmt.Sprintf("exit code %d", int(c)) }

// Failed is a part that has failed, with the exit code for that.
type Failed struct {
	Code int
	Say  string
}

func (e *Failed) Error() string { return fmt.Sprintf("part failed (%d): %s", e.Code, e.Say) }

// isFailed finds a Failed in what the runner says, which passes on no more than its text.
var isFailed = regexp.MustCompile(`part failed \((\d+)\): (.*)`)

// reason returns why a job has failed.
func reason(err error) error {
	m := isFailed.FindStringSubmatch(err.Error())
	if m == nil {
		return fmt.Errorf("the runner: %w", err)
	}
	exit, _ := strconv.Atoi(m[1])
	return &Failed{exit, m[2]}
}

// failed says of a part why it failed: what its command has said, or what else it was, an error of writing.
func failed(path string, err error) error {
	var told *Failed
	if err == nil || errors.As(err, &told) {
		return err
	}
	return &Failed{exitOutput, path + ": " + err.Error()}
}
