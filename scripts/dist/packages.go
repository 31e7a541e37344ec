package main

import (
	"archive/tar"
	"archive/zip"
	"compress/gzip"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"strings"

	"github.com/goccy/go-yaml"
)

// entry is a file of an archive: its name there, where it is, and whether it is run.
type entry struct {
	name, file string
	runs       bool
}

// entries lists the files of an archive.
func (r *release) entries(program, top string) (all []entry, err error) {
	all = []entry{
		{path.Join(top, filepath.Base(program)), program, true},
		{path.Join(top, "README.md"), "README.md", false},
		{path.Join(top, "CHANGELOG.md"), "CHANGELOG.md", false},
	}
	err = filepath.WalkDir(r.shared, func(file string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		name, err := filepath.Rel(r.shared, file)
		all = append(all, entry{path.Join(top, filepath.ToSlash(name)), file, false})
		return err
	})
	return all, err
}

// archive writes the archive of a platform.
func (r *release) archive(program, system, arch string) error {
	top := fmt.Sprintf("junvo-%s-%s-%s", r.version, system, arch)
	all, err := r.entries(program, top)
	if err != nil {
		return err
	}
	ending, write := ".tar.gz", r.tar
	if system == "windows" {
		ending, write = ".zip", r.zip
	}
	out, err := os.Create(filepath.Join(r.out, top+ending))
	if err != nil {
		return err
	}
	return errors.Join(write(out, all), out.Close())
}

func (r *release) tar(to io.Writer, all []entry) error {
	z := gzip.NewWriter(to)
	t := tar.NewWriter(z)
	for _, e := range all {
		info, err := os.Stat(e.file)
		if err != nil {
			return err
		}
		h := &tar.Header{Name: e.name, Mode: 0o644, Size: info.Size(), ModTime: r.date}
		if e.runs {
			h.Mode = 0o755
		}
		if err := t.WriteHeader(h); err != nil {
			return err
		}
		if err := copyFile(t, e.file); err != nil {
			return err
		}
	}
	return errors.Join(t.Close(), z.Close())
}

func (r *release) zip(to io.Writer, all []entry) error {
	z := zip.NewWriter(to)
	for _, e := range all {
		w, err := z.CreateHeader(&zip.FileHeader{Name: e.name, Method: zip.Deflate, Modified: r.date})
		if err != nil {
			return err
		}
		if err := copyFile(w, e.file); err != nil {
			return err
		}
	}
	return z.Close()
}

func copyFile(to io.Writer, file string) error {
	f, err := os.Open(file)
	if err != nil {
		return err
	}
	defer f.Close()
	_, err = io.Copy(to, f)
	return err
}

// packaged is what a package says of itself, in the words of the packager.
type packaged struct {
	Name, Arch, Platform, Version, Maintainer, Description, License, Section string

	VersionSchema string `yaml:"version_schema"`
	Contents      []content
}

// content is a file of a package.
type content struct{ Src, Dst string }

// pack makes a package for systems of a sort.
func (r *release) pack(work, program, arch, packager string) error {
	p := packaged{
		Name: "junvo", Arch: arch, Platform: "linux", Version: r.version, Maintainer: "The Junvo authors " +
			"<authors@junvo.example>",
		Description: "Finds out what the columns of a table really hold, converts them, and accounts for every cell that " +
			"would not go",
		License: "MIT", Section: "utils", VersionSchema: "none",
	}
	add := func(src, dst string) { p.Contents = append(p.Contents, content{src, dst}) }
	add(program, "/usr/bin/junvo")
	add(filepath.Join(r.shared, "completions", "junvo.bash"), "/usr/share/bash-completion/completions/junvo")
	add(filepath.Join(r.shared, "completions", "_junvo"), "/usr/share/zsh/vendor-completions/_junvo")
	add(filepath.Join(r.shared, "completions", "junvo.fish"), "/usr/share/fish/vendor_completions.d/junvo.fish")
	add("LICENSE", "/usr/share/doc/junvo/copyright")
	add(filepath.Join(r.shared, "licenses"), "/usr/share/doc/junvo/licenses")
	pages, err := os.ReadDir(filepath.Join(r.shared, "man"))
	if err != nil {
		return err
	}
	for _, page := range pages {
		add(filepath.Join(r.shared, "man", page.Name()), "/usr/share/man/man1/"+page.Name())
	}
	text, err := yaml.Marshal(p)
	if err != nil {
		return err
	}
	config := filepath.Join(work, packager+"-"+arch+".yaml")
	if err := os.WriteFile(config, text, 0o644); err != nil {
		return err
	}
	// The packager has many libraries of its own, so that it stands in a list of modules of its own.
	cmd := exec.Command("go", "tool", "-modfile=scripts/dist/tools.mod", "nfpm", "package", "--config", config,
		"--packager", packager, "--target", r.out+"/")
	if said, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("%s for %s: %w\n%s", packager, arch, err, said)
	}
	return nil
}

// checksums writes the checksums of all that was made.
func (r *release) checksums() error {
	entries, err := os.ReadDir(r.out)
	if err != nil {
		return err
	}
	var b strings.Builder
	for _, e := range entries {
		h := sha256.New()
		if err := copyFile(h, filepath.Join(r.out, e.Name())); err != nil {
			return err
		}
		fmt.Fprintf(&b, "%x  %s\n", h.Sum(nil), e.Name())
	}
	return os.WriteFile(filepath.Join(r.out, "SHA256SUMS"), []byte(b.String()), 0o644)
}
