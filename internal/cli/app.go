// Package cli is the command line: one file a command, in which flags come in,
// the core is called, and a report goes out.
package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"regexp"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"
	"golang.org/x/term"

	"roundyear/fault"
	"roundyear/internal/database"
	"roundyear/internal/delimited"
	"roundyear/internal/output"
	"roundyear/internal/report"
	"roundyear/internal/table"
	"roundyear/internal/terminal"
	"roundyear/rows"
)

// Exit codes. A run that is done exits with exitAttention if it has printed an
// attention line, one that begins with "!", and only then.
const (
	exitDone      = 0
	exitAttention = 1
	exitCall      = 2
	exitExternal  = 3
	exitInterrupt = 130
	exitTerminate = 143
)

// maxFaults is how many faults of a plan are said.
const maxFaults = 20

// errLimit ends a command that has passed a limit the user set, when it has been
// reported.
var errLimit = errors.New("a limit is passed")

// errPlan ends a command whose plan is wrong, when the faults have been said.
var errPlan = errors.New("the plan is wrong")

// App is a run of the program: its streams and the flags that every command has.
type App struct {
	stdin                          io.Reader
	stdout, stderr                 io.Writer
	stdoutTerminal, stderrTerminal bool
	// isPlain tells that a console does not understand colours.
	isPlain bool
	// The widths of the terminals in cells; 0 if they are not known.
	stdoutWidth, stderrWidth int

	// isElsewhere tells that run has gone to the folder of the plan.
	isElsewhere bool

	quiet    bool
	colour   string
	planPath string
	noPlan   bool

	// files are what the run reads and writes.
	files *output.Run
	// said are the files of which it was said what their columns are called.
	said map[string]bool
	// attention is set by a report that has an attention line.
	attention bool
	// tables are those of databases that are read, and written those that are outputs.
	tables, written []string
	// hadPassword tells that an argument had a password in it.
	hadPassword bool
	// typedDigits is how many digits a number has at most in the columns with types that rows are written to; 0 where columns have none.
	typedDigits int
	// normalised are the facts of the plan that normalise writes.
	normalised []string
}

// interrupted is the end of a run by a signal.
type interrupted struct{ os.Signal }

func (i interrupted) Error() string { return i.String() }

// exitCode is the one that shells expect of a program ended by the signal. A
// terminal that goes away ends it as SIGTERM does.
func (i interrupted) exitCode() int {
	if i.Signal == os.Interrupt {
		return exitInterrupt
	}
	return exitTerminate
}

// grace is how long a run may take to end after a signal before it is ended.
const grace = 700 * time.Millisecond

// widthOf returns the width of a terminal in cells; 0 if it is not one.
func widthOf(stream *os.File) int {
	width, _, err := term.GetSize(int(stream.Fd()))
	if err != nil {
		return 0
	}
	return width
}

// Main runs the program with the arguments and streams of the process and
// returns its exit code.
func Main() int {
	// A reader that goes away then shows as an error of writing.
	signal.Ignore(syscall.SIGPIPE)
	signals := make(chan os.Signal, 1)
	signal.Notify(signals, os.Interrupt, syscall.SIGTERM, syscall.SIGHUP)
	ctx, cancel := context.WithCancelCause(context.Background())
	defer cancel(nil)
	app := &App{
		stdin: os.Stdin, stdout: os.Stdout, stderr: os.Stderr,
		stdoutTerminal: term.IsTerminal(int(os.Stdout.Fd())),
		stderrTerminal: term.IsTerminal(int(os.Stderr.Fd())),
	}
	app.stdoutWidth, app.stderrWidth = widthOf(os.Stdout), widthOf(os.Stderr)
	restore, hasColours := terminal.Prepare(os.Stdout, os.Stderr)
	defer restore()
	app.isPlain = !hasColours
	asking := ctx
	if app.stderrTerminal && term.IsTerminal(int(os.Stdin.Fd())) {
		asking = database.WithPrompt(ctx, app.askPassword)
	}
	app.files = output.NewRun(asking)
	app.files.SendsMessages(os.Stderr)
	app.stderr = &messages{app}
	ended := make(chan int, 1)
	go func() { ended <- app.Run(asking, os.Args[1:]) }()
	select {
	case code := <-ended:
		return code
	case signal := <-signals:
		cancel(interrupted{signal})
	}
	select {
	case code := <-ended:
		return code
	case <-time.After(grace):
	}
	// What it waits for does not end: it is left behind, and nothing with it.
	app.files.Abort()
	return app.finish(ctx, nil, context.Canceled)
}

// messages is standard error, or standard output where standard error is a file that the run reads.
type messages struct{ *App }

func (m *messages) Write(text []byte) (int, error) {
	if m.files.MessagesAtRisk() {
		return m.stdout.Write(text)
	}
	return os.Stderr.Write(text)
}

// Run runs one command and returns its exit code. A panic ends it as a fault does: files
// that were begun are taken away.
func (a *App) Run(ctx context.Context, args []string) (code int) {
	defer func() {
		if recovered := recover(); recovered != nil {
			a.files.Abort()
			a.report().Fault(fault.Panicked(recovered, "", 0))
			code = exitExternal
		}
	}()
	if a.files == nil {
		a.files = output.NewRun(ctx)
	}
	a.said = map[string]bool{}
	args, err := a.conceal(args)
	if err != nil {
		return a.finish(ctx, nil, err)
	}
	root := a.root()
	root.SetArgs(args)
	root.SetIn(a.stdin)
	root.SetOut(a.stdout)
	root.SetErr(a.stderr)
	command, err := root.ExecuteContextC(ctx)
	err = notTogether(err)
	if !errors.Is(err, context.Canceled) && !output.IsReaderGone(err) {
		// Whatever came of a file that changed on the way, this is why.
		if changed := a.files.Changed(); changed != nil {
			err = changed
		}
	}
	a.files.Abort()
	for _, note := range a.files.Notes() {
		a.report().Note("%s", note)
	}
	return a.finish(ctx, command, strayValue(command, args, err))
}

// finish says why a command has stopped and returns the exit code.
func (a *App) finish(ctx context.Context, command *cobra.Command, err error) int {
	var problem *fault.Fault
	var faults fault.List
	switch {
	case err == nil && a.attention, errors.Is(err, errLimit):
		return exitAttention
	case err == nil:
		return exitDone
	case errors.Is(err, errPlan):
		return exitCall
	case output.IsReaderGone(err):
		return exitDone
	case ctx.Err() != nil:
		a.report().Line("roundyear: interrupted; no file was left incomplete")
		var by interrupted
		if errors.As(context.Cause(ctx), &by) {
			return by.exitCode()
		}
		return exitInterrupt
	case errors.As(err, &faults):
		for _, problem := range faults[:min(len(faults), maxFaults)] {
			a.report().Fault(problem)
		}
		if more := len(faults) - maxFaults; more > 0 {
			a.report().Fault(fmt.Errorf("and %s", report.Plural(more, "more fault")))
		}
		return exitCall
	case errors.As(err, &problem):
		a.report().Fault(err)
		if problem.IsExternal() {
			return exitExternal
		}
		return exitCall
	}
	a.report().Fault(err)
	if isUsage(err) {
		path := command.CommandPath()
		var inner resultError
		if errors.As(err, &inner) {
			path = inner.path
		}
		fmt.Fprintf(a.stderr, "See %s --help\n", path)
	}
	return exitCall
}

// resultError is the error of a command that run carries out.
type resultError struct {
	error
	path string
}

func (e resultError) Unwrap() error { return e.error }

// usageError is a call that does not fit the command's form.
type usageError struct{ error }

func isUsage(err error) bool {
	var usage usageError
	return errors.As(err, &usage) || strings.HasPrefix(err.Error(), "unknown command")
}

// Commands returns the tree of commands, for the reference pages made from it.
func Commands() *cobra.Command {
	return (&App{files: output.NewRun(context.Background()), said: map[string]bool{}}).root()
}

func (a *App) root() *cobra.Command {
	cobra.EnableCommandSorting = false // they stand in the order of the work
	root := &cobra.Command{
		Use:   "roundyear",
		Short: "Dates, periods and fiscal years for people who model business data",
		Long: `Round Year cleans the dates of your facts, builds the date dimension that they join
to, verifies it, fills missing periods, counts what was open, measures how long it
took, and adds up facts by period: calendar months, ISO weeks, or the months and
quarters of a fiscal year.

Order of work: survey files, normalise their dates, plan new, build, check, then
fill, census, lapse, allocate and totals, and publish. roundyear demo shows all of it
on sample data.

Exit codes: 0 done; 1 done, but something needs your attention (lines that start
with !); 2 wrong call, plan or data; 3 a file or server failed; 130 or 143
interrupted.`,
		SilenceErrors: true, SilenceUsage: true, Version: versionText(),
	}
	root.SetVersionTemplate("{{.Version}}\n")
	root.PersistentFlags().StringVarP(&a.planPath, "plan", "p", "", "year plan `FILE` (default: roundyear.yaml in the working folder or above it)")
	root.PersistentFlags().BoolVar(&a.noPlan, "no-plan", false, "ignore the plan in the folder")
	root.PersistentFlags().BoolVarP(&a.quiet, "quiet", "q", false, "print errors only")
	root.PersistentFlags().StringVar(&a.colour, "color", "auto", "`WHEN` to use colour: auto, always or never")
	root.PersistentPreRunE = func(command *cobra.Command, _ []string) error {
		if a.colour != "auto" && a.colour != "always" && a.colour != "never" {
			return usageError{fmt.Errorf("--color must be auto, always or never, not %q", a.colour)}
		}
		if a.noPlan && a.planPath != "" {
			return usageError{errors.New("--plan and --no-plan cannot be combined")}
		}
		return checkNeeds(command)
	}
	root.SetFlagErrorFunc(flagFault)
	a.setHelp(root)
	root.AddCommand(a.demoCommand(), a.surveyCommand(), a.normaliseCommand(), a.planCommand(), a.daysOffCommand(), a.buildCommand(), a.columnsCommand(),
		a.explainCommand(), a.checkCommand(), a.fillCommand(), a.censusCommand(), a.lapseCommand(), a.allocateCommand(), a.totalsCommand(), a.latestCommand(), a.publishCommand(), a.runCommand())
	a.addRequests(root)
	bindTogether(root)
	once(root)
	a.completeAll(root)
	root.InitDefaultCompletionCmd()
	completion, _, _ := root.Find([]string{"completion"})
	completion.Short = "Write a completion script for bash, zsh, fish or PowerShell"
	root.SetHelpCommand(&cobra.Command{Use: "no-help", Hidden: true})
	return root
}

// coloured tells whether a stream that is or is not a terminal gets colour.
func (a *App) coloured(terminal bool) bool {
	switch a.colour {
	case "always":
		return true
	case "never":
		return false
	}
	return terminal && !a.isPlain && os.Getenv("NO_COLOR") == "" && os.Getenv("TERM") != "dumb"
}

func (a *App) report() *report.Report {
	return report.New(a.stderr, report.Options{
		Colour: a.coloured(a.stderrTerminal), Quiet: a.quiet, Width: a.stderrWidth, IsElsewhere: a.isElsewhere,
		OnAttention: func() { a.attention = true },
	})
}

// arguments checks the number of arguments and says what they are for.
func arguments(least, most int, what string) cobra.PositionalArgs {
	return func(_ *cobra.Command, args []string) error {
		if len(args) < least {
			return usageError{fmt.Errorf("%s is missing", what)}
		}
		if most >= 0 && len(args) > most {
			return usageError{fmt.Errorf("unexpected argument: %s", fault.Quoted(args[most]))}
		}
		return nil
	}
}

// longRead is the size in bytes from which reading shows its progress.
const longRead = 64 << 20

// addressIn is an argument that is an address, behind its flag if that stands in the same word.
var addressIn = regexp.MustCompile(`(?s)^(--[\w-]+=|-[a-z]=?)?((?:[A-Za-z][A-Za-z0-9+.-]*:)?[A-Za-z][A-Za-z0-9+.-]*://.*)$`)

// conceal takes secrets out of addresses in arguments, so that nothing shows them. The error is that of the first address of a known kind
// that cannot be read.
func (a *App) conceal(args []string) (own []string, failed error) {
	for _, arg := range args {
		parts := addressIn.FindStringSubmatch(arg)
		if parts == nil || isThere(arg) {
			own = append(own, arg)
			continue
		}
		shown, had, err := database.Conceal(parts[2])
		if err != nil && failed == nil && database.IsKnown(parts[2]) {
			failed = err
		}
		if had {
			a.hadPassword = true
		}
		own = append(own, parts[1]+shown)
	}
	return own, failed
}

// isThere tells whether there is a file of a name, which wins over any other reading of it.
func isThere(path string) bool {
	_, err := os.Lstat(path)
	return err == nil
}

// notePassword says once that an address had a password in it.
func (a *App) notePassword() {
	if a.hadPassword {
		a.report().Note("the password in the address can be seen by other users while the program runs; PGPASSWORD, MYSQL_PWD, %s and %s cannot", database.PostgresPasswords, database.MySQLSettings)
	}
	a.hadPassword = false
}

// open opens the inputs and shows progress while they are read so many times.
// The function it returns ends both.
func (a *App) open(ctx context.Context, inputs []string, times int, form delimited.Form) (*rows.Source, func(), error) {
	a.notePassword()
	if stdin, ok := a.stdin.(*os.File); ok && slices.Contains(inputs, "-") {
		if err := a.files.ReadsStream("standard input", stdin, "/dev/stdin"); err != nil {
			return nil, nil, err
		}
	}
	source, err := table.Open(ctx, inputs, a.stdin, form)
	if err != nil {
		return nil, nil, err
	}
	if a.typedDigits > 0 {
		if err := database.Settle(ctx, source.Parts, a.typedDigits); err != nil {
			source.Close()
			return nil, nil, err
		}
	}
	for _, part := range source.Parts {
		if database.IsTable(part.Name) {
			a.tables = append(a.tables, part.Name)
		}
		if len(part.Renamed) > 0 && !a.said[part.Name] {
			a.report().Line("%s: columns without a unique name are called %s", part.Name, strings.Join(part.Renamed, ", "))
			a.said[part.Name] = true
		}
		if !a.said[part.Name+"#notes"] {
			for _, note := range part.Notes {
				a.report().Note("%s: %s", part.Name, note)
			}
			a.said[part.Name+"#notes"] = true
		}
		if above := part.Header - 1; above > 0 && form.Skip == 0 && !a.said[part.Name+"#header"] {
			a.report().Line("%s: the header is in row %d; the rows above it are skipped", part.Name, part.Header)
			a.said[part.Name+"#header"] = true
		}
		if path, info := table.Path(part); path != "" {
			if err := a.files.ReadsSteadily(part.Name, path, info); err != nil {
				source.Close()
				return nil, nil, err
			}
		}
	}
	end := func() {
		for _, part := range source.Parts {
			mended := delimited.MendedIn(part)
			if mended.Filled > 0 {
				a.report().Line("%s: %s filled with blanks", part.Name, report.Plural(mended.Filled, "short row"))
			}
			if mended.Cut > 0 {
				a.report().Line("%s: %s cut", part.Name, report.Plural(mended.Cut, "long row"))
			}
		}
		source.Close()
	}
	if !a.stderrTerminal || a.quiet || source.Size() < longRead {
		return source, end, nil
	}
	bar := progressbar.NewOptions64(source.Size()*int64(times),
		progressbar.OptionSetWriter(a.stderr), progressbar.OptionShowBytes(true), progressbar.OptionClearOnFinish(),
		progressbar.OptionSetDescription("reading"), progressbar.OptionSetWidth(30))
	source.Progress = func(bytes int) { _ = bar.Add(bytes) }
	return source, func() {
		_ = bar.Finish()
		end()
	}, nil
}
