package main

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"junvo/internal/cli"
)

// share makes what all platforms have.
func (r *release) share() error {
	man, completions := filepath.Join(r.shared, "man"), filepath.Join(r.shared, "completions")
	for _, folder := range []string{man, completions} {
		if err := os.MkdirAll(folder, 0o755); err != nil {
			return err
		}
	}
	if _, err := cli.WriteManual(man, r.version, r.date); err != nil {
		return err
	}
	if err := complete(cli.Commands(), completions); err != nil {
		return err
	}
	return r.licenses()
}

// complete writes the completions of each shell.
func complete(root *cobra.Command, folder string) error {
	for name, write := range map[string]func(string) error{
		"junvo.bash": func(f string) error { return root.GenBashCompletionFileV2(f, true) },
		"_junvo":     root.GenZshCompletionFile,
		"junvo.fish": func(f string) error { return root.GenFishCompletionFile(f, true) },
		"junvo.ps1":  root.GenPowerShellCompletionFileWithDesc,
	} {
		if err := write(filepath.Join(folder, name)); err != nil {
			return err
		}
	}
	return nil
}

// licenseFile is what files with the terms of a licence are called.
var licenseFile = regexp.MustCompile(`(?i)^(licen[cs]e|copying|notice|unlicense|patents)([-._].*)?$`)

// licenses collects the terms of all libraries that are in the program, and of the standard library.
func (r *release) licenses() error {
	folder := filepath.Join(r.shared, "licenses")
	list, err := output("go", "list", "-deps", "-f", "{{with .Module}}{{.Path}} {{.Version}} {{.Dir}}{{end}}",
		"junvo/cmd/junvo")
	if err != nil {
		return err
	}
	root, err := output("go", "env", "GOROOT")
	if err != nil {
		return err
	}
	lines := strings.Split(list, "\n")
	slices.Sort(lines)
	lines = append(slices.Compact(lines), "go "+"std "+root)
	for _, line := range lines {
		path, rest, _ := strings.Cut(line, " ")
		version, dir, _ := strings.Cut(rest, " ")
		if path == "" || version == "" { // the program itself
			continue
		}
		found, err := copyLicenses(dir, filepath.Join(folder, strings.ReplaceAll(path, "/", "_")))
		if err != nil {
			return err
		}
		if !found {
			return fmt.Errorf("%s %s has no licence in %s", path, version, dir)
		}
	}
	_, err = copyLicenses(".", r.shared)
	return err
}

// copyLicenses copies the files with terms in a folder, and reports whether there is one.
func copyLicenses(from, to string) (found bool, err error) {
	entries, err := os.ReadDir(from)
	if err != nil {
		return false, err
	}
	for _, e := range entries {
		if e.IsDir() || !licenseFile.MatchString(e.Name()) || strings.HasSuffix(e.Name(), ".go") {
			continue
		}
		text, err := os.ReadFile(filepath.Join(from, e.Name()))
		if err != nil {
			return false, err
		}
		if err := os.MkdirAll(to, 0o755); err != nil {
			return false, err
		}
		if err := os.WriteFile(filepath.Join(to, e.Name()), text, 0o644); err != nil {
			return false, err
		}
		found = true
	}
	return found, nil
}
