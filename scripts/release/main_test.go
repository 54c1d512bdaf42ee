package main

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"compress/gzip"
	"debug/buildinfo"
	"errors"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"
)

// packed packs a small program in place of the one that takes minutes to build.
func packed(t *testing.T) string {
	t.Helper()
	program := filepath.Join(t.TempDir(), "program")
	if err := os.WriteFile(program, []byte("#!/bin/sh\necho roundyear "+"1.2.3\n"), 0o777); err != nil {
		t.Fatal(err)
	}
	r := &release{version: "v1.2.3", at: time.Unix(1796158454, 0).UTC(), folder: t.TempDir(), shared: map[string][]byte{
		"LICENSE": []byte("licence"), "LICENSES.txt": []byte("licences"), "README.md": []byte("read"), "man/man1/roundyear.1": []byte(".TH roundyear 1\n"),
		"completions/roundyear.bash": []byte("complete"), "completions/_roundyear": []byte("#compdef"), "completions/roundyear.fish": []byte("complete"), "completions/roundyear.ps1": []byte("Register"),
	}}
	for _, target := range targets {
		if err := r.pack(program, target[0], target[1]); err != nil {
			t.Fatal(err)
		}
	}
	if err := r.sums(); err != nil {
		t.Fatal(err)
	}
	return r.folder
}

// The same content gives the same bytes.
func TestPackingIsTheSameEachTime(t *testing.T) {
	one, other := packed(t), packed(t)
	entries, err := os.ReadDir(one)
	if err != nil || len(entries) != 11 {
		t.Fatalf("%d files: %v", len(entries), err)
	}
	for _, entry := range entries {
		a, _ := os.ReadFile(filepath.Join(one, entry.Name()))
		b, err := os.ReadFile(filepath.Join(other, entry.Name()))
		if err != nil || !bytes.Equal(a, b) {
			t.Errorf("%s differs: %v", entry.Name(), err)
		}
	}
	check := exec.Command("sha256sum", "--check", "--quiet", "SHA256SUMS")
	check.Dir = one
	if out, err := check.CombinedOutput(); err != nil {
		t.Errorf("%s", out)
	}
}

// Archives have the program, so that it can be run, and all that goes with it.
func TestArchives(t *testing.T) {
	folder := packed(t)
	file, err := os.Open(filepath.Join(folder, "roundyear-v1.2.3-linux-amd64.tar.gz"))
	if err != nil {
		t.Fatal(err)
	}
	defer file.Close()
	unpacked, err := gzip.NewReader(file)
	if err != nil {
		t.Fatal(err)
	}
	found := map[string]int64{}
	for archive := tar.NewReader(unpacked); ; {
		header, err := archive.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			t.Fatal(err)
		}
		found[header.Name] = header.Mode
	}
	if found["roundyear-v1.2.3-linux-amd64/roundyear"] != 0o755 || found["roundyear-v1.2.3-linux-amd64/LICENSES.txt"] != 0o644 || len(found) != 9 {
		t.Errorf("%v", found)
	}
	windows, err := zip.OpenReader(filepath.Join(folder, "roundyear-v1.2.3-windows-amd64.zip"))
	if err != nil {
		t.Fatal(err)
	}
	defer windows.Close()
	var names []string
	for _, one := range windows.File {
		names = append(names, strings.TrimPrefix(one.Name, "roundyear-v1.2.3-windows-amd64/"))
	}
	if all := strings.Join(names, " "); !strings.Contains(all, "roundyear.exe") || !strings.Contains(all, "completions/roundyear.ps1") || len(names) != 9 {
		t.Errorf("%s", all)
	}
}

// The package of Debian is installed, runs, and leaves nothing when it is removed.
func TestThePackageOfDebian(t *testing.T) {
	if _, err := exec.LookPath("dpkg"); err != nil || os.Geteuid() != 0 {
		t.Skip("needs dpkg, and root")
	}
	folder, root := packed(t), t.TempDir()
	for _, name := range []string{"info", "updates", "triggers"} {
		if err := os.MkdirAll(filepath.Join(root, "var/lib/dpkg", name), 0o777); err != nil {
			t.Fatal(err)
		}
	}
	if err := os.WriteFile(filepath.Join(root, "var/lib/dpkg/status"), nil, 0o666); err != nil {
		t.Fatal(err)
	}
	architecture, err := exec.Command("dpkg", "--print-architecture").Output()
	if err != nil {
		t.Fatal(err)
	}
	dpkg := func(args ...string) string {
		t.Helper()
		out, err := exec.Command("dpkg", append([]string{"--root=" + root, "--log=/dev/null"}, args...)...).CombinedOutput()
		if err != nil {
			t.Fatalf("dpkg %v: %s", args, out)
		}
		return string(out)
	}
	dpkg("-i", filepath.Join(folder, "roundyear-v1.2.3-linux-"+strings.TrimSpace(string(architecture))+".deb"))
	out, err := exec.Command(filepath.Join(root, "usr/bin/roundyear")).Output()
	if err != nil || string(out) != "roundyear 1.2.3\n" {
		t.Errorf("%s %v", out, err)
	}
	listed := dpkg("-L", "roundyear")
	for _, want := range []string{"/usr/share/man/man1/roundyear.1.gz", "/usr/share/doc/roundyear/copyright", "/usr/share/doc/roundyear/LICENSES.txt", "/usr/share/bash-completion/completions/roundyear"} {
		if !strings.Contains(listed, want+"\n") {
			t.Errorf("no %s in\n%s", want, listed)
		}
	}
	if status := dpkg("-s", "roundyear"); !strings.Contains(status, "Version: 1.2.3-1\n") {
		t.Errorf("%s", status)
	}
	dpkg("-r", "roundyear")
	left, _ := filepath.Glob(filepath.Join(root, "usr/*/*"))
	if len(left) > 0 {
		t.Errorf("left: %v", left)
	}
}

// Every module that the built program names itself has its licence in the archives, that of parts from elsewhere included.
func TestLicencesOfAllThatIsInTheProgram(t *testing.T) {
	t.Chdir("../..")
	program := filepath.Join(t.TempDir(), "roundyear")
	build := exec.Command("go", "build", "-o", program, "./cmd/roundyear")
	build.Env = append(os.Environ(), "CGO_ENABLED=0")
	if out, err := build.CombinedOutput(); err != nil {
		t.Fatal(string(out))
	}
	info, err := buildinfo.ReadFile(program)
	if err != nil {
		t.Fatal(err)
	}
	all, err := licences()
	if err != nil {
		t.Fatal(err)
	}
	if len(info.Deps) < 20 {
		t.Errorf("%d modules", len(info.Deps))
	}
	sections := strings.Split(string(all), "\n"+strings.Repeat("=", 80)+"\n")
	for _, module := range info.Deps {
		name := module.Path + " " + module.Version + "\n"
		if !slices.ContainsFunc(sections, func(section string) bool {
			return strings.HasPrefix(section, name) && (strings.Contains(section, "Permission is hereby granted") || strings.Contains(section, "Redistribution and use") || strings.Contains(section, "Apache License") || strings.Contains(section, "Mozilla Public License"))
		}) {
			t.Errorf("no licence of %s", name)
		}
	}
	for _, want := range []string{"Go\n\nCopyright 2009 The Go Authors.", "Caleb Spare"} { // whose hash is part of a module
		if !strings.Contains(string(all), want) {
			t.Errorf("no %q", want)
		}
	}
}
