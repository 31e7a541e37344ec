// Command dist builds what people install: for each platform an archive with the program, its manual pages, completions
// for shells and the licences of all that is in it, packages for Debian and Red Hat systems, and the checksums of all
// of them.
//
//	go run ./scripts/dist                                everything, into dist/
//	go run ./scripts/dist -targets linux/amd64 -o out    for one platform
package main

import (
	"flag"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// platforms are those for which there are builds.
const platforms = "linux/amd64,linux/arm64,darwin/amd64,darwin/arm64,windows/amd64,windows/arm64"

// release is what is built.
type release struct {
	version string
	date    time.Time // of the last change, so that the same source makes the same pages
	out     string    // the folder for what is made
	shared  string    // the folder with what all platforms have: man, completions, licenses
}

func main() {
	log.SetFlags(0)
	out := flag.String("o", "dist", "the folder for what is made; it is made new")
	targets := flag.String("targets", platforms, "the platforms, with commas between")
	version := flag.String("version", "", "the version (default: the tag of the last change, or its hash)")
	flag.Parse()
	work, err := os.MkdirTemp("", "junvo-dist-")
	check(err)
	r := &release{version: *version, out: *out, shared: filepath.Join(work, "shared")}
	err = r.make(work, strings.Split(*targets, ","))
	check(os.RemoveAll(work))
	check(err)
}

func check(err error) {
	if err != nil {
		log.Fatal(err)
	}
}

func (r *release) make(work string, targets []string) error {
	if err := r.describe(); err != nil {
		return err
	}
	if _, err := os.Stat(r.out); err == nil {
		return fmt.Errorf("%s is there: name another folder, or move it away", r.out)
	}
	if err := os.MkdirAll(r.out, 0o755); err != nil {
		return err
	}
	if err := r.share(); err != nil {
		return err
	}
	for _, target := range targets {
		system, arch, ok := strings.Cut(target, "/")
		if !ok {
			return fmt.Errorf("%q is no platform: there are %s", target, platforms)
		}
		program, err := r.build(work, system, arch)
		if err != nil {
			return err
		}
		if err := r.archive(program, system, arch); err != nil {
			return err
		}
		if system != "linux" {
			continue
		}
		for _, packager := range []string{"deb", "rpm"} {
			if err := r.pack(work, program, arch, packager); err != nil {
				return err
			}
		}
	}
	return r.checksums()
}

// describe finds out the version and the date.
func (r *release) describe() error {
	stamp, err := output("git", "log", "-1", "--format=%ct")
	if err != nil {
		return err
	}
	seconds, err := strconv.ParseInt(stamp, 10, 64)
	if err != nil {
		return err
	}
	r.date = time.Unix(seconds, 0).UTC()
	if r.version != "" {
		return nil
	}
	said, err := output("git", "describe", "--tags", "--always")
	if r.version = strings.TrimPrefix(said, "v"); !regexp.MustCompile(`^\d+\.\d+`).MatchString(r.version) {
		r.version = "0.0.0~" + r.date.Format("20060102") + "." + said
	}
	return err
}

// output runs a command and returns what it prints.
func output(name string, args ...string) (string, error) {
	cmd := exec.Command(name, args...)
	cmd.Stderr = os.Stderr
	b, err := cmd.Output()
	if err != nil {
		return "", fmt.Errorf("%s %s: %w", name, strings.Join(args, " "), err)
	}
	return strings.TrimSpace(string(b)), nil
}

// build builds the program for a platform and returns its path.
func (r *release) build(work, system, arch string) (string, error) {
	program := filepath.Join(work, system+"-"+arch, "junvo")
	if system == "windows" {
		program += ".exe"
	}
	cmd := exec.Command("go", "build", "-trimpath", "-ldflags=-s -w -X junvo/internal/cli.released="+r.version, "-o",
		program, "junvo/cmd/junvo")
	cmd.Env = append(os.Environ(), "CGO_ENABLED=0", "GOOS="+system, "GOARCH="+arch)
	cmd.Stderr = os.Stderr
	if err := cmd.Run(); err != nil {
		return "", fmt.Errorf("building for %s/%s: %w", system, arch, err)
	}
	return program, nil
}
