package cli

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"roundyear/fault"
	"roundyear/internal/app"
	"roundyear/internal/database"
	"roundyear/internal/extended"
	"roundyear/internal/normalise"
	"roundyear/internal/output"
	"roundyear/internal/publish"
	"roundyear/internal/table"
	"roundyear/nearest"
	"roundyear/rows"
)

type normaliseCommand struct {
	app          *App
	command      *cobra.Command
	dates        []string
	numbers      []string
	decimals     []string
	shape        shapeFlags
	kept         []string
	distinct     []string
	sortBy       []string
	minus        string
	time         string
	rejects      string
	maxRejects   int
	dropOriginal bool
	add          []string
	blank        string
	partitionBy  string
	keep         bool
	existing     struct{ append, replacePartitions, replace bool }
	choice       normalise.Existing
	out          string
	format       string
	force        bool
	guard        bool
	describe     bool
	reading      readingFlags
	calendars    calendarFlags
	inside       insideFlags

	// ending is that of files in the format of the source, and columnCount how many columns it
	// has.
	ending      string
	columnCount int
	// planned tells that the plan has the facts, and covers what is written.
	planned bool
	// options are those of the run that do not depend on the source.
	options normalise.Options
}

func (a *App) normaliseCommand() *cobra.Command {
	n := &normaliseCommand{app: a}
	command := &cobra.Command{
		Use:     "normalise INPUT…",
		Aliases: []string{"normalize"},
		Short:   "Clean the dates of facts: add the day, the time and the key to each row",
		Long: `Normalise reads facts and writes the same rows with three more columns: the day
(COLUMN_date), the time of day if there is one (COLUMN_time), and the key that
joins the row to the date dimension (COLUMN_key, yyyymmdd). The time is cut off,
never rounded. Everything else stays as it was, byte for byte, unless --out has
the extension of another format (` + table.Endings(table.Extendable()) + `)
or is a table of a database, such as shop.db#sales.

The date format is decided from the whole column, in each file on its own. One
value above 12 settles whether the day or the month comes first. If nothing
settles it, the command stops and asks for --order or --pattern.

Rows whose date cannot be read, and rows with more or fewer fields than the header,
go to a rejects file with line and reason. Correct them there and normalise that
file. The command exits with 1 if it rejected rows.

Letters of --pattern (Unicode LDML): yyyy or yy year, MM month, MMM or MMMM its
name, dd day, EEE weekday, HH hour 0-23, hh hour 1-12 with a for AM/PM, mm minute,
ss second, SSS fraction, XXX UTC offset, Q quarter, YYYY with ww week; text in
'quotes'. Instead of letters: serial and serial1904 (spreadsheet days), julian,
unix, unix_ms, unix_us and unix_ns (time since 1970).`,
		Example: `  roundyear normalise data/till-a.csv -o clean/till-a.csv
  roundyear normalise 'data/till-*.csv' --date sold_at -o clean/sales.csv
  roundyear normalise data/till-b.csv --pattern 'sold_at=MM/dd/yyyy h:mm a' -o clean/till-b.csv
  roundyear normalise data/orders.csv --date ordered --date delivered -o clean/orders.csv
  roundyear normalise data/budget.csv --parts budget=year,month,day -o clean/budget.csv`,
		Args: arguments(1, -1, "the input file"),
		RunE: func(command *cobra.Command, args []string) error { return n.run(command.Context(), args) },
	}
	n.command = command
	flags := command.Flags()
	flags.StringArrayVar(&n.dates, "date", nil, "date `COLUMN` (repeatable; default: the plan's, or the only date column)")
	flags.StringArrayVar(&n.numbers, "number", nil, "add COLUMN_number, the plain number of a `COLUMN`: 1.234,50 € becomes 1234.50 (repeatable)")
	addDecimals(command, &n.decimals, &n.minus)
	flags.StringVar(&n.time, "time", "keep", "`keep|drop` the time of day")
	flags.StringVar(&n.rejects, "rejects", "", "`FILE` for rows whose date cannot be read (default: NAME.rejects.csv next to --out)")
	flags.IntVar(&n.maxRejects, "max-rejects", -1, "write nothing if more than `N` rows would be rejected (default: no limit)")
	flags.Lookup("max-rejects").DefValue = "0"
	flags.BoolVar(&n.dropOriginal, "drop-original", false, "drop the original columns of dates and numbers")
	flags.StringSliceVar(&n.add, "columns", nil, "`ATTRIBUTES` or groups of the date dimension to add after the key")
	flags.StringVar(&n.blank, "blank", "keep", "`KEY` of rows without a date: keep (blank) or unknown (that of the plan's row for them, else -1)")
	flags.StringVar(&n.partitionBy, "partition-by", "", "write one file per value of this `COLUMN` to the folder --out: an added column, or an attribute of the day")
	flags.BoolVar(&n.keep, "keep-partition", false, "keep the --partition-by column in the files")
	flags.BoolVar(&n.existing.append, "append", false, "with --partition-by: keep the partitions in the folder, and add rows to them")
	flags.BoolVar(&n.existing.replacePartitions, "replace-partitions", false, "with --partition-by: replace only the partitions that occur, and keep the others")
	flags.BoolVar(&n.existing.replace, "replace", false, "with --partition-by: replace the whole folder, also partitions that do not occur")
	flags.StringVarP(&n.out, "out", "o", "-", "`FILE` to write; "+table.Endings(table.Extendable())+" sets the format, "+table.PackedEndings()+" after it compresses; postgres://…#table, mysql://…#table or shop.db#table is a table of a database; - is standard output, in the format of the input if that is text, else CSV")
	flags.StringVar(&n.format, "format", "", "`FORMAT` of an output whose file name does not tell it: "+strings.Join(table.Extendable(), ", "))
	addForce(command, &n.force)
	addGuard(command, &n.guard)
	addDescribe(command, &n.describe)
	flags.StringSliceVar(&n.kept, "keep", nil, "`COLUMNS` of the input to write, in this order (default: all)")
	flags.StringSliceVar(&n.distinct, "distinct", nil, "`COLUMNS` of which each row has other values: rows that repeat those of an earlier row are rejected")
	flags.StringSliceVar(&n.sortBy, "sort", nil, "`COLUMNS` to sort the rows by, of the input or added, such as sold_date,'amount desc'; rows are held in memory for that")
	n.shape.add(n.app, command)
	n.inside.addOfRows(command)
	n.reading.add(command)
	n.calendars.add(command)
	n.calendars.addWeekend(command)
	return command
}

func (n *normaliseCommand) run(ctx context.Context, inputs []string) error {
	if n.time != "keep" && n.time != "drop" {
		return usageError{fmt.Errorf("--time must be keep or drop, not %q", n.time)}
	}
	n.app.files.Force = n.force
	place, err := n.inside.read(n.app)
	if err != nil {
		return err
	}
	y, err := n.app.year(&n.calendars)
	if err != nil {
		return err
	}
	named := y.Named(ctx, inputs, false)
	inputs = named.Inputs
	if named.Facts != nil && named.Facts.Out != "" && n.partitionBy == "" && !n.command.Flags().Changed("out") {
		n.out = shown(y.Path(named.Facts.Out))
	}
	reading, err := n.byPlan(y, inputs)
	if err != nil {
		return err
	}
	if len(n.dates) == 0 && len(reading.Asked.Parts) == 0 {
		n.dates = n.reading.patternColumns()
	}
	if err := n.readOptions(y, reading); err != nil {
		return err
	}
	reading, marks, err := n.app.described(inputs, reading)
	if err != nil {
		return err
	}
	if facts := y.FactsOf(inputs); len(n.decimals) == 0 && (facts == nil || len(facts.Decimals) == 0) {
		n.decimals = marks
	}
	n.app.writesRows([]string{n.out}, n.format)
	source, done, err := n.app.open(ctx, inputs, 2, reading.Form)
	if err != nil {
		return err
	}
	defer done()
	n.ending, n.columnCount = table.EndingOf(source.Parts[0]), source.Parts[0].OwnColumns()
	if table.HasSink(table.FormatOf(source.Parts[0]).Name) {
		// Rejects are corrected by hand, which takes text.
		n.ending, n.options.RejectsFormat = ".csv", "csv"
	}
	if err := n.checkOut(source); err != nil {
		return err
	}
	if source, err = n.shape.apply(ctx, source, y.FactsOf(inputs), n.decimals, n.minus, y, reading); err != nil {
		return err
	}
	if facts := y.FactsOf(inputs); facts != nil {
		given := given(n.command)
		n.kept, n.distinct, n.sortBy = given.Texts("keep", n.kept, facts.Keep), given.Texts("distinct", n.distinct, facts.Distinct), given.Texts("sort", n.sortBy, facts.Sort)
		n.numbers = given.Texts("number", n.numbers, facts.Numbers)
	}
	if len(n.sortBy) > 0 && n.partitionBy != "" {
		return usageError{errors.New("rows are not sorted in partitions: --sort and --partition-by cannot be combined")}
	}
	for _, name := range n.kept {
		place, err := source.Find(name)
		if err != nil {
			return err
		}
		if slices.Contains(n.options.Keep, place) {
			return usageError{fmt.Errorf("--keep names the column %q twice", name)}
		}
		n.options.Keep = append(n.options.Keep, place)
	}
	decimals, err := readDecimals(source, y.FactsOf(inputs), n.decimals)
	if err != nil {
		return err
	}
	minus, err := readMinus(given(n.command), y.FactsOf(inputs), n.minus)
	if err != nil {
		return err
	}
	reading.Asked.Labels = y.Labels
	request := app.Normalise{OnDatabase: place, Source: source, Columns: n.dates, Numbers: n.numbers, Decimals: decimals, Minus: minus, Distinct: n.distinct, SortBy: n.sortBy, Asked: reading.Asked, Options: n.options, Files: n.app.files, Out: n.out, Rejects: n.rejectsPath(), Existing: n.choice,
		Create: n.app.create, MaxRejects: n.maxRejects}
	if n.describe {
		request.Describe = func(fields []publish.Field) error { return n.describeOut(source, fields) }
	}
	result, err := request.Run(ctx)
	var refused *app.Refused
	var unknown *app.UnknownPartition
	switch {
	case errors.As(err, &refused):
		return n.refuse(refused)
	case errors.As(err, &unknown):
		return usageError{fmt.Errorf("--partition-by: %w%s", unknown, didYouMean(nearest.Name(unknown.Name, append(unknown.Added, unknown.Attributes...))))}
	case err != nil:
		return n.inside.told(n.app, source.Name(), err)
	}
	n.print(source, result)
	if n.describe && n.partitionBy == "" {
		n.app.tellDescribed([]string{n.out})
	}
	return nil
}

// byPlan takes the date columns, and how they are read, from the plan's facts
// to which the inputs belong, where the flags do not say it.
func (n *normaliseCommand) byPlan(y *app.Year, inputs []string) (app.Reading, error) {
	facts := y.FactsOf(inputs)
	if facts == nil {
		return n.reading.read()
	}
	if len(n.dates) == 0 && len(n.reading.parts) == 0 {
		for _, dates := range facts.Dates {
			if len(dates.Parts) == 0 {
				n.dates = append(n.dates, dates.Column)
			}
		}
	}
	column := ""
	if len(n.dates) == 1 {
		column = n.dates[0]
	}
	n.planned = (len(y.Plan.Range.Cover) > 0 || y.Plan.Range.From != nil) && facts.Out != "" && shown(y.Path(facts.Out)) == shown(n.out)
	return n.reading.readBy(facts, column)
}

// readOptions reads the flags that do not depend on the source.
func (n *normaliseCommand) readOptions(y *app.Year, reading app.Reading) error {
	n.options = normalise.Options{DropTime: n.time == "drop", DropOriginal: n.dropOriginal, Formulas: formulas(n.guard), Clock: reading.Clock, Clocks: reading.Clocks}
	switch n.blank {
	case "keep":
	case "unknown":
		n.options.BlankKey = strconv.Itoa(y.UnknownKey())
	default:
		return usageError{fmt.Errorf("--blank must be keep or unknown, not %q", n.blank)}
	}
	today, err := asOf("")
	if err != nil {
		return err
	}
	catalogue, err := n.app.catalogue(y, today)
	if err != nil {
		return err
	}
	n.options.Catalogue = catalogue
	if len(n.add) > 0 {
		if n.options.Added, err = selected(catalogue, "--columns", n.add); err != nil {
			return err
		}
	}
	n.choice = n.readExisting()
	if n.partitionBy == "" {
		return nil
	}
	if n.out == "-" {
		return usageError{errors.New("--partition-by needs an output folder: -o FOLDER/")}
	}
	n.options.PartitionBy, n.options.KeepPartition = n.partitionBy, n.keep
	return nil
}

// readExisting reads what becomes of partitions that are there.
func (n *normaliseCommand) readExisting() normalise.Existing {
	switch {
	case n.existing.append:
		return normalise.Append
	case n.existing.replacePartitions:
		return normalise.ReplacePartitions
	case n.existing.replace:
		return normalise.ReplaceAll
	}
	return normalise.RefuseOthers
}

// describeOut describes the output beside it.
func (n *normaliseCommand) describeOut(source *rows.Source, fields []publish.Field) error {
	form := extended.Form{Source: source, Format: n.options.Format}
	described := publish.Table{Fields: fields, BlankAs: source.BlankAs, Delimiter: form.Delimiter()}
	return n.app.describe([]string{n.out}, func(string) string { return form.FormatName() }, described)
}

// checkOut refuses outputs that would not hold what they say.
func (n *normaliseCommand) checkOut(source *rows.Source) error {
	switch {
	case database.IsTable(n.rejects):
		return &fault.Fault{File: n.rejects, What: "rejects are written to files, to be corrected", Remedy: "Name a file, such as rejects.csv"}
	case database.IsTable(n.out) && n.partitionBy != "":
		return usageError{errors.New("--partition-by writes a folder of files, and --out is a table")}
	case database.IsTable(n.out):
		sink, err := n.app.tableSink(n.out, n.force)
		if err != nil {
			return err
		}
		n.options.Sink = sink
	}
	if n.partitionBy == "" && n.options.Sink == nil {
		if err := n.app.files.Check(n.out); err != nil {
			return err
		}
	}
	if err := n.app.files.Check(n.rejectsPath()); err != nil {
		return err
	}
	if n.rejects != "" && filepath.Clean(n.rejects) == filepath.Clean(n.out) {
		return usageError{errors.New("--out and --rejects are the same file")}
	}
	if err := n.findFormat(source); err != nil {
		return err
	}
	if n.describe && n.partitionBy == "" { // partitions are always described
		if err := n.app.checkDescribed([]string{n.out}); err != nil {
			return err
		}
	}
	if n.rejects == "" || n.rejects == "-" || output.IsStream(n.rejects) || n.streamsOut() || n.partitionBy != "" {
		return nil
	}
	format, err := formatFor(n.rejects)
	switch {
	case err != nil:
		return err
	case table.HasSink(format):
		return &fault.Fault{File: n.rejects, What: "rejects are written as text, to be corrected", Remedy: "Give the file another extension, such as .csv"}
	case format != "":
		n.options.RejectsFormat = format
	}
	return nil
}

// findFormat finds the format that rows are written in: nothing for that of the source.
func (n *normaliseCommand) findFormat(source *rows.Source) (err error) {
	if n.options.Format = n.format; n.format == "" && n.out == "-" && table.HasSink(table.FormatOf(source.Parts[0]).Name) {
		n.options.Format = "csv" // what goes through a pipe is text
	}
	if n.format != "" && !slices.Contains(table.Extendable(), n.format) {
		return usageError{fmt.Errorf("unknown format %q; use %s", n.format, strings.Join(table.Extendable(), ", "))}
	}
	if n.streamsOut() || n.partitionBy != "" {
		if n.out == "-" && n.app.stdoutTerminal && table.HasSink(n.options.FormatOf(source)) {
			return errNotText(n.options.FormatOf(source))
		}
		return nil
	}
	format, err := formatFor(n.out)
	if err == nil {
		n.options.Format = format
	} else if n.format != "" && !isFormatted(n.out) {
		err = table.CheckReplaced(n.format, n.out)
	}
	return err
}

// isFormatted tells whether the ending of a path says a format.
func isFormatted(path string) bool {
	format, _ := table.FormatOfPath(path)
	return format != ""
}

// formatFor returns the format in which rows are written to a path, by its ending; nothing for
// that of their source.
func formatFor(path string) (string, error) {
	_, ending, _ := table.SplitName(path)
	if strings.EqualFold(ending, ".txt") {
		return "", nil
	}
	format, err := table.FormatOfPath(path)
	if err != nil && (format != "" || table.HasSink(strings.ToLower(strings.TrimPrefix(ending, ".")))) {
		return "", err
	}
	if err == nil && slices.Contains(table.Extendable(), format) {
		return format, nil
	}
	return "", &fault.Fault{File: path, What: "normalise writes files that end in " + table.Endings(append(table.Extendable(), "txt"))}
}

// streamsOut tells whether rows go where they are seen as they are written, or into a table.
func (n *normaliseCommand) streamsOut() bool {
	return n.out == "-" || database.IsTable(n.out) || output.IsStream(n.out)
}

// rejectsPath is where rejected rows go; nothing where they have nowhere to go.
func (n *normaliseCommand) rejectsPath() string {
	switch {
	case n.rejects != "":
		return n.rejects
	case n.partitionBy != "":
		return filepath.Clean(n.out) + ".rejects" + n.ending
	case n.streamsOut():
		return ""
	}
	// Rejects are rows as they came in. Beside rows in the same format they have the same ending.
	stem, ending, packed := table.SplitName(n.out)
	if n.options.Format != "" && !strings.EqualFold(ending, n.ending) {
		ending = n.ending
	}
	return stem + ".rejects" + ending + packed
}
