// Command release packs the program as people install it: archives for Linux, macOS and Windows with the licences of all that is in it, manual
// pages and completions, and packages for Debian and for RPM. It takes the version, the time of the commit in seconds since 1970, and the
// folder to write to, and is run in the folder of the project. The same commit gives the same bytes.
package main

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"cmp"
	"compress/gzip"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/goreleaser/nfpm/v2"
	_ "github.com/goreleaser/nfpm/v2/deb"
	"github.com/goreleaser/nfpm/v2/files"
	_ "github.com/goreleaser/nfpm/v2/rpm"
)

func main() {
	if len(os.Args) != 4 {
		fmt.Fprintln(os.Stderr, "release: name the version, the time of the commit and the folder")
		os.Exit(2)
	}
	seconds, err := strconv.ParseInt(os.Args[2], 10, 64)
	if err == nil {
		r := &release{version: os.Args[1], at: time.Unix(seconds, 0).UTC(), folder: os.Args[3]}
		err = r.make()
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "release:", err)
		os.Exit(3)
	}
}

// release is what is packed.
type release struct {
	version string
	at      time.Time
	folder  string
	// shared are the files of all archives, by their paths in them.
	shared map[string][]byte
}

// targets are the systems and processors that the program is built for.
var targets = [][2]string{{"linux", "amd64"}, {"linux", "arm64"}, {"darwin", "amd64"}, {"darwin", "arm64"}, {"windows", "amd64"}, {"windows", "arm64"}}

func (r *release) make() error {
	if err := os.MkdirAll(r.folder, 0o777); err != nil {
		return err
	}
	built, err := os.MkdirTemp("", "release-")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(built) }()
	own := filepath.Join(built, "own")
	if err := r.build(own, "", ""); err != nil {
		return err
	}
	if err := r.collect(own, built); err != nil {
		return err
	}
	for _, target := range targets {
		program := filepath.Join(built, target[0]+"-"+target[1])
		if err := r.build(program, target[0], target[1]); err != nil {
			return err
		}
		if err := r.pack(program, target[0], target[1]); err != nil {
			return err
		}
	}
	return r.sums()
}

// build builds the program for a system and a processor; for those at work without them.
func (r *release) build(to, system, processor string) error {
	command := exec.Command("go", "build", "-buildvcs=auto", "-trimpath", "-ldflags", "-s -w -X roundyear/internal/cli.version="+r.version, "-o", to, "./cmd/roundyear")
	command.Env = append(os.Environ(), "CGO_ENABLED=0", "GOOS="+system, "GOARCH="+processor)
	return run(command)
}

func run(command *exec.Cmd) error {
	if out, err := command.CombinedOutput(); err != nil {
		return fmt.Errorf("%s: %w\n%s", strings.Join(command.Args, " "), err, out)
	}
	return nil
}

// collect gathers what goes into all archives: licences, manual pages, completions.
func (r *release) collect(program, folder string) error {
	r.shared = map[string][]byte{}
	for _, name := range []string{"README.md", "LICENSE", "NOTICE", "CHANGELOG.md"} {
		text, err := os.ReadFile(name)
		if err != nil {
			return err
		}
		r.shared[name] = text
	}
	var err error
	if r.shared["LICENSES.txt"], err = licences(); err != nil {
		return err
	}
	pages := filepath.Join(folder, "man1")
	if err := run(exec.Command("go", "run", "./scripts/man", pages)); err != nil {
		return err
	}
	entries, err := os.ReadDir(pages)
	if err != nil {
		return err
	}
	for _, entry := range entries {
		text, err := os.ReadFile(filepath.Join(pages, entry.Name()))
		if err != nil {
			return err
		}
		r.shared["man/man1/"+entry.Name()] = text
	}
	for shell, name := range map[string]string{"bash": "roundyear.bash", "zsh": "_roundyear", "fish": "roundyear.fish", "powershell": "roundyear.ps1"} {
		text, err := exec.Command(program, "completion", shell).Output()
		if err != nil {
			return fmt.Errorf("completion %s: %w", shell, err)
		}
		r.shared["completions/"+name] = text
	}
	return nil
}

// licences are those of all modules that are part of the program, one behind the other, with those of parts that a module has from elsewhere.
func licences() ([]byte, error) {
	modules, packages := map[string]string{}, map[string]map[string]bool{}
	for _, target := range targets {
		command := exec.Command("go", "list", "-deps", "-json=Dir,Module", "./cmd/roundyear")
		command.Env = append(os.Environ(), "CGO_ENABLED=0", "GOOS="+target[0], "GOARCH="+target[1])
		out, err := command.Output()
		if err != nil {
			return nil, err
		}
		for decoder := json.NewDecoder(bytes.NewReader(out)); ; {
			var one struct {
				Dir    string
				Module *struct {
					Path, Version, Dir string
					Main               bool
				}
			}
			if err := decoder.Decode(&one); errors.Is(err, io.EOF) {
				break
			} else if err != nil {
				return nil, err
			}
			if m := one.Module; m != nil && !m.Main {
				name := m.Path + " " + m.Version
				if modules[name] = m.Dir; packages[name] == nil {
					packages[name] = map[string]bool{}
				}
				for folder := one.Dir; folder != m.Dir; folder = filepath.Dir(folder) {
					packages[name][folder] = true
				}
			}
		}
	}
	var all bytes.Buffer
	all.WriteString("Round Year is made with these modules, unchanged, and with the Go programming language. Their licences follow. The source of each\ncomes with `go mod download NAME@VERSION`.\n")
	for _, module := range slices.Sorted(maps.Keys(modules)) {
		found, err := licencesIn(modules[module])
		if err != nil {
			return nil, err
		}
		if len(found) == 0 {
			return nil, fmt.Errorf("%s has no licence", module)
		}
		for _, folder := range slices.Sorted(maps.Keys(packages[module])) {
			more, err := licencesIn(folder)
			if err != nil {
				return nil, err
			}
			found = append(found, slices.DeleteFunc(more, func(text []byte) bool {
				return slices.ContainsFunc(found, func(known []byte) bool { return bytes.Equal(known, text) })
			})...)
		}
		fmt.Fprintf(&all, "\n%s\n%s\n", strings.Repeat("=", 80), module)
		for _, text := range found {
			fmt.Fprintf(&all, "\n%s\n", bytes.TrimSpace(text))
		}
	}
	root, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		return nil, err
	}
	found, err := licencesIn(strings.TrimSpace(string(root)))
	if err != nil {
		return nil, err
	}
	for _, text := range found {
		fmt.Fprintf(&all, "\n%s\nGo\n\n%s\n", strings.Repeat("=", 80), bytes.TrimSpace(text))
	}
	return all.Bytes(), nil
}

// licencesIn returns the texts of the licences in a folder.
func licencesIn(folder string) (texts [][]byte, err error) {
	entries, err := os.ReadDir(folder)
	if err != nil {
		return nil, err
	}
	for _, entry := range entries {
		name := strings.ToUpper(entry.Name())
		if entry.IsDir() || !strings.HasPrefix(name, "LICEN") && !strings.HasPrefix(name, "COPYING") && !strings.HasPrefix(name, "NOTICE") && !strings.HasPrefix(name, "UNLICENSE") {
			continue
		}
		text, err := os.ReadFile(filepath.Join(folder, entry.Name()))
		if err != nil {
			return nil, err
		}
		texts = append(texts, text)
	}
	return texts, nil
}

// pack writes the archive of a program, and its packages for Linux.
func (r *release) pack(program, system, processor string) error {
	content, err := os.ReadFile(program)
	if err != nil {
		return err
	}
	own := maps.Clone(r.shared)
	name := fmt.Sprintf("roundyear-%s-%s-%s", r.version, system, processor)
	if system == "windows" {
		own["roundyear.exe"] = content
		return r.zip(name, own)
	}
	own["roundyear"] = content
	if err := r.tar(name, own); err != nil || system != "linux" {
		return err
	}
	for _, format := range []string{"deb", "rpm"} {
		if err := r.packages(program, format, processor); err != nil {
			return err
		}
	}
	return nil
}

func mode(name string) int64 {
	if name == "roundyear" {
		return 0o755
	}
	return 0o644
}

func (r *release) tar(name string, content map[string][]byte) error {
	var out bytes.Buffer
	packed, err := gzip.NewWriterLevel(&out, gzip.BestCompression)
	if err != nil {
		return err
	}
	archive := tar.NewWriter(packed)
	for _, path := range slices.Sorted(maps.Keys(content)) {
		header := &tar.Header{Name: name + "/" + path, Mode: mode(path), Size: int64(len(content[path])), ModTime: r.at, Format: tar.FormatPAX}
		if err := archive.WriteHeader(header); err != nil {
			return err
		}
		if _, err := archive.Write(content[path]); err != nil {
			return err
		}
	}
	if err := errors.Join(archive.Close(), packed.Close()); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(r.folder, name+".tar.gz"), out.Bytes(), 0o666)
}

func (r *release) zip(name string, content map[string][]byte) error {
	var out bytes.Buffer
	archive := zip.NewWriter(&out)
	for _, path := range slices.Sorted(maps.Keys(content)) {
		file, err := archive.CreateHeader(&zip.FileHeader{Name: name + "/" + path, Method: zip.Deflate, Modified: r.at})
		if err != nil {
			return err
		}
		if _, err := file.Write(content[path]); err != nil {
			return err
		}
	}
	if err := archive.Close(); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(r.folder, name+".zip"), out.Bytes(), 0o666)
}

// packages writes a package for Linux.
func (r *release) packages(program, format, processor string) error {
	places := map[string]string{}
	for path := range r.shared {
		switch folder, name := filepath.Split(path); {
		case strings.HasPrefix(path, "man/"):
			places[path] = "/usr/share/" + path
		case name == "roundyear.bash":
			places[path] = "/usr/share/bash-completion/completions/roundyear"
		case name == "_roundyear" && format == "deb":
			places[path] = "/usr/share/zsh/vendor-completions/" + name
		case name == "_roundyear":
			places[path] = "/usr/share/zsh/site-functions/" + name
		case name == "roundyear.fish":
			places[path] = "/usr/share/fish/vendor_completions.d/" + name
		case folder == "" && name == "LICENSE" && format == "deb":
			places[path] = "/usr/share/doc/roundyear/copyright"
		case folder == "":
			places[path] = "/usr/share/doc/roundyear/" + name
		}
	}
	staged, err := os.MkdirTemp("", "release-")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(staged) }()
	contents := files.Contents{{Source: program, Destination: "/usr/bin/roundyear", FileInfo: &files.ContentFileInfo{Mode: 0o755, MTime: r.at}}}
	for i, path := range slices.Sorted(maps.Keys(places)) {
		source := filepath.Join(staged, strconv.Itoa(i))
		text, place := r.shared[path], places[path]
		if strings.HasPrefix(path, "man/") {
			if text, err = gzipped(text); err != nil {
				return err
			}
			place += ".gz"
		}
		if err := os.WriteFile(source, text, 0o666); err != nil {
			return err
		}
		contents = append(contents, &files.Content{Source: source, Destination: place, FileInfo: &files.ContentFileInfo{Mode: 0o644, MTime: r.at}})
	}
	info := &nfpm.Info{
		Name: "roundyear", Arch: processor, Platform: "linux", Version: cmp.Or(strings.TrimPrefix(r.version, "v"), "0"), VersionSchema: "none", Release: "1", MTime: r.at,
		Section: "utils", Priority: "optional", Maintainer: "The founders of Round Year <founders@roundyear.invalid>", License: "Apache-2.0",
		Description:  "Date dimensions and facts by period for people who model business data.\nIt finds and normalises dates, generates calendar and fiscal date dimensions with\ndays off, fills missing periods and compares periods fairly.",
		Overridables: nfpm.Overridables{Contents: contents},
	}
	if format == "deb" && (info.Version == "" || info.Version[0] < '0' || info.Version[0] > '9') {
		info.Version = "0~" + info.Version // versions of Debian begin with a digit
	}
	info = nfpm.WithDefaults(info)
	packager, err := nfpm.Get(format)
	if err != nil {
		return err
	}
	if err := nfpm.PrepareForPackager(info, format); err != nil {
		return err
	}
	var out bytes.Buffer
	if err := packager.Package(info, &out); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(r.folder, fmt.Sprintf("roundyear-%s-linux-%s.%s", r.version, processor, format)), out.Bytes(), 0o666)
}

// gzipped compresses a manual page as packages have them: without a time.
func gzipped(text []byte) ([]byte, error) {
	var out bytes.Buffer
	w, err := gzip.NewWriterLevel(&out, gzip.BestCompression)
	if err != nil {
		return nil, err
	}
	_, err = w.Write(text)
	return out.Bytes(), errors.Join(err, w.Close())
}

// sums writes the checksums of all.
func (r *release) sums() error {
	entries, err := os.ReadDir(r.folder)
	if err != nil {
		return err
	}
	var all strings.Builder
	for _, entry := range entries {
		if entry.Name() == "SHA256SUMS" {
			continue
		}
		content, err := os.ReadFile(filepath.Join(r.folder, entry.Name()))
		if err != nil {
			return err
		}
		fmt.Fprintf(&all, "%x  %s\n", sha256.Sum256(content), entry.Name())
	}
	fmt.Print(all.String())
	return os.WriteFile(filepath.Join(r.folder, "SHA256SUMS"), []byte(all.String()), 0o666)
}
