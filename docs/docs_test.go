package docs

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/wine"
)

var update = flag.Bool("update", false, "write what the examples say into the docs")

// bin is the folder of the built program, and isWindows tells that it is the one for Windows, under Wine.
var (
	bin       string
	isWindows bool
)

func TestMain(m *testing.M) { os.Exit(buildAndRun(m)) }

func buildAndRun(m *testing.M) int {
	flag.Parse()
	folder, err := os.MkdirTemp("", "roundyear-docs-")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(folder)
	bin = folder
	if os.Getenv("DRIVE") == "wine" {
		w, err := wine.New(folder)
		if err != nil {
			fmt.Println(err)
			return 0
		}
		defer w.End()
		isWindows = true
		return m.Run()
	}
	build := exec.Command("go", "build", "-trimpath", "-o", filepath.Join(bin, "roundyear"), "roundyear/cmd/roundyear")
	build.Env = append(os.Environ(), "CGO_ENABLED=0")
	if out, err := build.CombinedOutput(); err != nil {
		panic(string(out))
	}
	return m.Run()
}

// shell runs a command line in a folder and returns what it says on both of
// its outputs, and its exit code.
func shell(t *testing.T, folder, line string) (string, int) {
	t.Helper()
	command := exec.Command("bash", "-c", line)
	command.Dir = folder
	command.Env = append(os.Environ(), "PATH="+bin+":"+os.Getenv("PATH"))
	var said bytes.Buffer
	command.Stdout, command.Stderr = &said, &said
	_ = command.Run()
	text := said.String()
	if isWindows { // where names that the program makes up have the other strokes between them
		text = strings.ReplaceAll(text, `\`, "/")
	}
	return text, command.ProcessState.ExitCode()
}

// demoFolder returns a folder in which the demo has run.
func demoFolder(t *testing.T) string {
	t.Helper()
	folder := t.TempDir()
	said, code := shell(t, folder, "roundyear demo")
	require.Zero(t, code, said)
	return folder
}

var consoleBlock = regexp.MustCompile("(?s)```console\n(.*?)```\n")

// Every example of the guide and the README is run, in order, in a folder with
// the demo's files, and says what stands there, on Windows too. A line of … stands for any.
func TestExamplesSayTheTruth(t *testing.T) {
	for _, page := range []string{"../README.md", "guide.md"} {
		t.Run(page, func(t *testing.T) {
			text, err := os.ReadFile(page)
			require.NoError(t, err)
			folder := demoFolder(t)
			examples := 0
			updated := consoleBlock.ReplaceAllStringFunc(string(text), func(block string) string {
				shown := consoleBlock.FindStringSubmatch(block)[1]
				var result strings.Builder
				for _, example := range strings.Split("\n"+shown, "\n$ ")[1:] {
					line, want, _ := strings.Cut(strings.TrimSuffix(example, "\n"), "\n")
					if inner, found := strings.CutPrefix(line, "cd "); found {
						folder = filepath.Join(folder, inner)
						result.WriteString("$ " + line + "\n")
						continue
					}
					if _, err := exec.LookPath("sqlite3"); err != nil && strings.Contains(line, "sqlite3") {
						t.Logf("not run, since sqlite3 is not installed: %s", line)
						result.WriteString("$ " + example + "\n")
						continue
					}
					said, code := shell(t, folder, line)
					assert.LessOrEqual(t, code, 2, line)
					said = strings.TrimSuffix(said, "\n")
					examples++
					if *update && !strings.Contains(want, "…\n") {
						want = said
					}
					assertSays(t, want, said, line)
					result.WriteString("$ " + line + "\n")
					if want != "" {
						result.WriteString(want + "\n")
					}
				}
				return "```console\n" + result.String() + "```\n"
			})
			assert.Positive(t, examples)
			if *update {
				require.NoError(t, os.WriteFile(page, []byte(updated), 0o666))
			}
		})
	}
}

// nextLine is a command to be pasted, which has other quotes on Windows.
var nextLine = regexp.MustCompile(`(?m)^next: .*$`)

func assertSays(t *testing.T, want, said, line string) {
	t.Helper()
	if isWindows {
		unquoted := func(line string) string { return strings.NewReplacer("'", "", `"`, "").Replace(line) }
		want, said = nextLine.ReplaceAllStringFunc(want, unquoted), nextLine.ReplaceAllStringFunc(said, unquoted)
	}
	if !strings.Contains(want, "…\n") {
		assert.Equal(t, want, said, line)
		return
	}
	rest := said
	for _, part := range strings.Split(want, "…\n") {
		_, after, found := strings.Cut(rest, part)
		assert.True(t, found, "%s does not say\n%s\nbut\n%s", line, part, said)
		rest = after
	}
}

// The examples of the commands' own pages run where they say they do.
func TestExamplesOfCommandsRun(t *testing.T) {
	folder := filepath.Join(demoFolder(t), "fernhollow")
	pages, err := filepath.Glob("commands/*.md")
	require.NoError(t, err)
	require.NotEmpty(t, pages)
	for _, page := range pages {
		text, err := os.ReadFile(page)
		require.NoError(t, err)
		_, examples, found := strings.Cut(string(text), "roundyear demo` writes:\n\n```\n")
		require.True(t, found, page)
		examples, _, _ = strings.Cut(examples, "\n```")
		for _, line := range strings.Split(examples, "\n") {
			require.True(t, strings.HasPrefix(line, "roundyear "), line)
			said, code := shell(t, folder, line)
			assert.LessOrEqual(t, code, 1, "%s: %s", line, said)
		}
	}
}

// Each key that a plan can have is in the reference, and each flag on the page of its command: by what the program itself says of both.
func TestEachKeyAndFlagIsDocumented(t *testing.T) {
	folder := filepath.Join(demoFolder(t), "fernhollow")
	said, code := shell(t, folder, "roundyear plan schema")
	require.Zero(t, code)
	var schema any
	require.NoError(t, json.Unmarshal([]byte(said), &schema))
	reference, err := os.ReadFile("plan.md")
	require.NoError(t, err)
	guide, err := os.ReadFile("guide.md")
	require.NoError(t, err)
	keys := 0
	var walk func(node any)
	walk = func(node any) {
		switch node := node.(type) {
		case map[string]any:
			if properties, ok := node["properties"].(map[string]any); ok {
				for key := range properties {
					keys++
					assert.Regexp(t, `(?m)^\| `+"`"+`([\w.]+\.)?`+key+"`", string(reference), "plan.md does not have the key")
				}
			}
			for _, below := range node {
				walk(below)
			}
		case []any:
			for _, below := range node {
				walk(below)
			}
		}
	}
	walk(schema)
	assert.Greater(t, keys, 130)
	assert.Contains(t, string(guide), "](plan.md)")
	pages, err := filepath.Glob("commands/*.md")
	require.NoError(t, err)
	flags := 0
	for _, page := range pages {
		text, err := os.ReadFile(page)
		require.NoError(t, err)
		command := strings.Replace(strings.TrimSuffix(filepath.Base(page), ".md"), "plan-", "plan ", 1)
		help, code := shell(t, folder, "roundyear "+command+" --help")
		require.Zero(t, code, command)
		for _, flag := range regexp.MustCompile(`(?m)^ +(?:-\w, |    )(--[a-z-]+)`).FindAllStringSubmatch(help, -1) {
			if flag[1] == "--help" {
				continue
			}
			flags++
			assert.Regexp(t, `(?m)^\| `+"`"+`(-\w, )?`+flag[1]+`[ `+"`"+`].* \| .{10,} \|$`, string(text), "%s does not say what %s means", page, flag[1])
		}
	}
	assert.Greater(t, flags, 300)
}

// The pages made from the program are those that it would make now.
func TestReferenceIsUpToDate(t *testing.T) {
	fresh := t.TempDir()
	said, code := shell(t, ".", "go run ../scripts/reference "+fresh)
	require.Zero(t, code, said)
	pages, err := filepath.Glob(filepath.Join(fresh, "*", "*.md"))
	require.NoError(t, err)
	pages = append(pages, filepath.Join(fresh, "attributes.md"), filepath.Join(fresh, "plan.md"))
	kept, err := filepath.Glob("commands/*.md")
	require.NoError(t, err)
	assert.Len(t, pages, len(kept)+2)
	for _, page := range pages {
		name, err := filepath.Rel(fresh, page)
		require.NoError(t, err)
		want, err := os.ReadFile(page)
		require.NoError(t, err)
		is, err := os.ReadFile(name)
		require.NoError(t, err)
		assert.Equal(t, string(want), string(is), "%s is old; run go generate ./docs", name)
	}
}

var codeBlock = regexp.MustCompile("(?s)```.*?```")

var link = regexp.MustCompile(`\]\(([^)#:]+)\)`)

// Pages and pictures that the docs lead to are there.
func TestLinksLeadSomewhere(t *testing.T) {
	pages, err := filepath.Glob("*.md")
	require.NoError(t, err)
	decisions, err := filepath.Glob("decisions/*.md")
	require.NoError(t, err)
	for _, page := range append(append(pages, decisions...), "../README.md", "../ARCHITECTURE.md", "../CHANGELOG.md", "../CONTRIBUTING.md") {
		text, err := os.ReadFile(page)
		require.NoError(t, err)
		for _, match := range link.FindAllStringSubmatch(codeBlock.ReplaceAllString(string(text), ""), -1) {
			assert.FileExists(t, filepath.Join(filepath.Dir(page), match[1]), page)
		}
	}
	pictures, err := filepath.Glob("screenshots/*.png")
	require.NoError(t, err)
	readme, err := os.ReadFile("../README.md")
	require.NoError(t, err)
	for _, picture := range pictures {
		assert.Contains(t, string(readme), "docs/"+picture)
	}
}
