package app

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"roundyear/datetext"
	"roundyear/dimension"
	"roundyear/fault"
	"roundyear/internal/delimited"
	"roundyear/internal/normalise"
	"roundyear/internal/output"
	"roundyear/internal/publish"
	"roundyear/internal/reading"
	"roundyear/internal/table"
	"roundyear/numbertext"
	"roundyear/rows"
)

// Normalise asks for the dates of facts to be cleaned.
type Normalise struct {
	OnDatabase
	// Source is the facts. Ragged rows in it are rejected.
	Source *rows.Source
	// Columns are the date columns; without them and without parts, the only one that there is.
	Columns []string
	Asked   reading.Asked
	// Numbers are columns whose numbers are written plainly, and Decimals the decimal marks of columns by their names, of all
	// others without a name.
	Numbers  []string
	Decimals map[string]numbertext.Mark
	// Minus is the mark of numbers that count as negative, CR or DR.
	Minus string
	// Distinct are columns of which each row must have other values.
	Distinct []string
	// SortBy are columns that the rows are sorted by, with desc behind those of which the largest comes first.
	SortBy []string
	// Options are those that do not depend on how the dates are read.
	Options normalise.Options
	// Files is the run that Out and Rejects belong to. Out is a file, a folder if the options
	// partition the rows, or - for standard output; Rejects is nothing where rejected rows have
	// nowhere to go.
	Files        *output.Run
	Out, Rejects string
	// Existing says what becomes of the partitions of earlier runs in the folder.
	Existing normalise.Existing
	// Create opens an output that is a file.
	Create func(path string) (*output.File, error)
	// Describe describes the output beside it, by its columns; nil for none, and for partitions, which are always described.
	Describe func(fields []publish.Field) error
	// MaxRejects is how many rows may be rejected; less than 0 for any number.
	MaxRejects int

	// unreadNumbers are the first numbers of columns that cannot be read.
	unreadNumbers []*fault.Fault
}

// Normalised is what came of cleaning dates.
type Normalised struct {
	*normalise.Report
	Dates []*reading.Dates
	// Added are the names of the columns that were added.
	Added []string
	// Parts is the folder of partitions that was written, if one was.
	Parts *normalise.Partitions
	// DroppedRejects is a file of rejects of an earlier run that was removed.
	DroppedRejects string
}

// Refused is the error for rows that cannot be normalised and have nowhere to go, or are too
// many. Nothing was written.
type Refused struct {
	Dates  []*reading.Dates
	Ragged reading.Ragged
	// Unread counts the dates that cannot be read. IsTooMany tells that there are more rejects
	// than are allowed.
	Unread    int
	IsTooMany bool
	// Rejected is how many rows would be rejected, where numbers are among the reasons: the first ones of each column.
	Rejected int
	Numbers  []*fault.Fault
}

// Error says how many there are.
func (r *Refused) Error() string {
	return fmt.Sprintf("%d dates cannot be read, and %d rows are ragged", r.Unread, r.Ragged.Count)
}

// UnknownPartition is the error for a column to partition by that rows do not have.
type UnknownPartition struct {
	Name string
	// Added are the columns that are added, Attributes those of the day.
	Added, Attributes []string
}

// Error says which column.
func (u *UnknownPartition) Error() string {
	return fmt.Sprintf("%q is neither an added column (%s) nor an attribute of the day", u.Name, strings.Join(u.Added, ", "))
}

// errNoRejectsFile is a rejected row that has nowhere to go.
var errNoRejectsFile = &fault.Fault{What: "a date cannot be read, and nothing was written", Remedy: "Name a file for such rows with --rejects FILE, or write to a file with -o"}

// errSeenTooSoon ends a run by a guess whose rejects would be seen before the guess is
// confirmed.
var errSeenTooSoon = errors.New("rejects would be seen too soon")

// Run reads the facts, in one pass if the first rows tell how their dates are read, writes them
// and puts all files in place. The error may be Refused or UnknownPartition.
func (n *Normalise) Run(ctx context.Context) (*Normalised, error) {
	n.Source.KeepsRagged = true
	columns := n.Columns
	if len(columns) == 0 && len(n.Asked.Parts) == 0 {
		name, err := n.onlyColumn(ctx)
		if err != nil {
			return nil, err
		}
		columns = []string{name}
	}
	if done, err := n.inside(ctx, columns); err != nil || done != nil {
		return done, err
	}
	// A file in which no row is as long as the header has another header, or another delimiter.
	if err := n.Source.Sample(ctx, 1, func(*rows.Row) {}); err != nil {
		return nil, err
	}
	if err := n.decideNumbers(ctx); err != nil {
		return nil, err
	}
	if err := n.findRepeats(ctx); err != nil {
		return nil, err
	}
	done, evidence, err := n.inOnePass(ctx, columns)
	if err != nil || done != nil {
		return done, err
	}
	return n.inTwoPasses(ctx, columns, evidence)
}

// decideNumbers decides how numbers are written. Those that cannot be read are a fault where rejected rows have nowhere to
// go.
func (n *Normalise) decideNumbers(ctx context.Context) error {
	if len(n.Numbers) == 0 {
		return nil
	}
	var places, texts []int
	for _, name := range n.Numbers {
		place, err := n.Source.Find(name)
		if err != nil {
			return err
		}
		places = append(places, place)
		if n.Source.Columns()[place].Type == rows.Text {
			texts = append(texts, place)
		}
	}
	observed, err := observeNumbers(ctx, n.Source, texts)
	if err != nil {
		return err
	}
	formats, err := observed.decide(n.Source, texts, func(place int) numbertext.Asked {
		mark, ok := n.Decimals[n.Source.Names()[place]]
		if !ok {
			mark = n.Decimals[""]
		}
		return numbertext.Asked{Mark: mark, Minus: n.Minus}
	})
	if err != nil {
		return err
	}
	for _, place := range places {
		number := normalise.Number{Name: n.Source.Names()[place], Place: place, Formats: map[*rows.Part]*numbertext.Format{}}
		for _, part := range n.Source.Parts {
			if format := formats[part][place]; format != nil {
				number.Formats[part] = format
			} else {
				number.Formats[part] = &numbertext.Format{Mark: numbertext.Point, Scale: int(part.Columns[place].Scale)}
			}
		}
		n.Options.Numbers = append(n.Options.Numbers, number)
	}
	return n.limitNumbers(observed, formats, texts)
}

// limitNumbers returns a fault for numbers that cannot be read if their rows have nowhere to go, and remembers the first of each
// column.
func (n *Normalise) limitNumbers(observed observedNumbers, formats numberFormats, places []int) error {
	for _, part := range n.Source.Parts {
		for i, place := range places {
			format := *formats[part][place]
			count, first := observed[part][i].Unread(format)
			if count == 0 {
				continue
			}
			n.unreadNumbers = append(n.unreadNumbers, &fault.Fault{File: part.Name, Line: first.Line, Column: part.Columns[place].Name, What: fmt.Sprintf("%q is not a number with a decimal %s", first.Value, format.Mark)})
		}
	}
	if n.Rejects != "" || len(n.unreadNumbers) == 0 {
		return nil
	}
	first := n.unreadNumbers[0]
	first.What += "; nothing was written"
	first.Remedy = "Name a file for such rows with --rejects FILE, or write to a file with -o"
	return first
}

// onlyColumn returns the only date column of the source. The columns that a file of rejects has
// added do not count.
func (n *Normalise) onlyColumn(ctx context.Context) (string, error) {
	if !normalise.IsRejects(n.Source) {
		return reading.OneDateColumn(ctx, n.Source)
	}
	names, err := reading.DateColumns(ctx, n.Source)
	if err != nil {
		return "", err
	}
	names = slices.DeleteFunc(names, func(name string) bool { return name == "value" || name == "line" })
	if len(names) != 1 {
		return "", &fault.Fault{File: n.Source.Name(), What: "the date column of this rejects file is unclear", Remedy: "Name it with --date"}
	}
	return names[0], nil
}

// streamsOut tells whether rows go where they are seen as they are written, or into a table, which is only begun once.
func (n *Normalise) streamsOut() bool {
	return n.Out == "-" || n.Options.Sink != nil || output.IsStream(n.Out)
}

// inOnePass guesses from the first rows how the dates are read, reads all rows by the guess and
// gathers the evidence for it on the way. Where the evidence does not confirm the guess nothing
// is left of the run, and it returns nil and the evidence of all rows; where the output would be
// seen before that is known it returns nothing.
func (n *Normalise) inOnePass(ctx context.Context, columns []string) (*Normalised, *reading.Evidence, error) {
	if n.streamsOut() || n.Rejects == "-" {
		return nil, nil, nil
	}
	evidence, err := reading.NewEvidence(n.Source, columns, n.Asked)
	if err != nil {
		return nil, nil, err
	}
	guess, err := reading.Guess(ctx, n.Source, columns, n.Asked)
	if err != nil {
		// All rows may say what the first ones leave open, or say it better.
		return nil, nil, nil
	}
	options := n.Options
	options.Dates, options.Evidence, options.HasSurplus = guess, evidence, normalise.HasSurplus(n.Source)
	isWhole := false
	done, err := n.write(ctx, options, func() ([]*reading.Dates, error) {
		isWhole = true
		dates, err := evidence.Decide()
		if err != nil || !reading.SameReading(guess, dates) {
			return nil, err
		}
		return dates, n.limit(dates, evidence.Ragged())
	})
	if !isWhole {
		evidence = nil
	}
	return done, evidence, err
}

// inTwoPasses decides how the dates are read from all rows, by their evidence if there is some, and
// then reads them.
func (n *Normalise) inTwoPasses(ctx context.Context, columns []string, evidence *reading.Evidence) (*Normalised, error) {
	if evidence == nil {
		var err error
		if evidence, err = reading.NewEvidence(n.Source, columns, n.Asked); err != nil {
			return nil, err
		}
		if err := evidence.Gather(ctx, n.Source); err != nil {
			return nil, err
		}
	}
	dates, err := evidence.Decide()
	if err != nil {
		return nil, err
	}
	if err := n.limit(dates, evidence.Ragged()); err != nil {
		return nil, err
	}
	options := n.Options
	options.Dates, options.HasSurplus = dates, evidence.Ragged().IsLong || normalise.HasSurplus(n.Source)
	if n.Rejects == "" && options.Moves() {
		if err := n.tryMoves(ctx, options); err != nil {
			return nil, err
		}
	}
	return n.write(ctx, options, func() ([]*reading.Dates, error) { return dates, nil })
}

// tryMoves stops before anything is written when a row would be rejected since its moment, moved
// to another zone, has no date: what the column holds does not tell that beforehand.
func (n *Normalise) tryMoves(ctx context.Context, options normalise.Options) error {
	options.PartitionBy = ""
	_, err := normalise.Run(ctx, n.Source, options, io.Discard, nil, func() (io.Writer, error) { return nil, errNoRejectsFile })
	return err
}

// limit returns Refused when rows would be rejected and have nowhere to go, or are too many.
func (n *Normalise) limit(dates []*reading.Dates, ragged reading.Ragged) error {
	refused := &Refused{Dates: dates, Ragged: ragged}
	for _, d := range dates {
		refused.Unread += d.Unread()
	}
	all := refused.Unread + ragged.Count
	refused.IsTooMany = n.MaxRejects >= 0 && all > n.MaxRejects
	if all == 0 || !refused.IsTooMany && n.Rejects != "" {
		return nil
	}
	return refused
}

// partition finds out what column the rows are partitioned by.
func (n *Normalise) partition(options *normalise.Options) error {
	if options.PartitionBy == "" {
		return nil
	}
	dates := options.Dates[0]
	own := []string{dates.Name + "_date", dates.Name + "_key"}
	if options.ClockOf(dates).DayStarts != nil && dates.Clock() != datetext.NoTime {
		own = append(own, dates.Name+"_business_date")
	}
	if slices.Contains(own, options.PartitionBy) {
		return nil
	}
	attributes := options.Catalogue.Attributes()
	i := slices.IndexFunc(attributes, func(a dimension.Attribute) bool { return a.Name == options.PartitionBy })
	if i < 0 {
		unknown := &UnknownPartition{Name: options.PartitionBy, Added: own}
		for _, attribute := range attributes {
			unknown.Attributes = append(unknown.Attributes, attribute.Name)
		}
		return unknown
	}
	options.Partition = &attributes[i]
	return nil
}

// write runs the rows through and puts the files in their places, if confirm returns how the
// dates were read; else it returns nil and nothing is left.
func (n *Normalise) write(ctx context.Context, options normalise.Options, confirm func() ([]*reading.Dates, error)) (*Normalised, error) {
	if err := n.partition(&options); err != nil {
		return nil, err
	}
	var err error
	if options.Sort, err = options.ReadSort(n.Source, n.SortBy); err != nil {
		return nil, err
	}
	done := &Normalised{Added: options.Columns()}
	var out *output.File
	if options.PartitionBy != "" {
		folder, err := n.Files.CreateFolder(n.Out, normalise.FolderKind)
		if err != nil {
			return nil, err
		}
		done.Parts = normalise.NewPartitions(folder, options.PartitionBy, options.FormatOf(n.Source), options.AllFields(n.Source), n.Existing)
		defer done.Parts.Abort()
	} else if options.Sink == nil {
		var err error
		if out, err = n.Create(n.Out); err != nil {
			return nil, err
		}
		defer out.Abort()
	}
	if n.Rejects != "" {
		n.Files.RemoveLeftovers(n.Rejects)
	}
	var rejects *output.File
	defer func() {
		if rejects != nil {
			rejects.Abort()
		}
	}()
	done.Report, err = normalise.Run(ctx, n.Source, options, out, done.Parts, func() (io.Writer, error) {
		if n.Rejects == "" {
			// Where a name stands for several months, counting beforehand can miss a day
			// that the right month does not have.
			return nil, errNoRejectsFile
		}
		var err error
		rejects, err = n.Create(n.Rejects)
		if err == nil && options.Evidence != nil && !rejects.IsWhole() {
			err = errSeenTooSoon
		}
		return rejects, err
	})
	if errors.Is(err, errSeenTooSoon) || errors.Is(err, normalise.ErrWrongGuess) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	if done.Dates, err = confirm(); err != nil || done.Dates == nil {
		return nil, err
	}
	if n.MaxRejects >= 0 && done.Rejected > n.MaxRejects {
		return nil, &Refused{Dates: done.Dates, Rejected: done.Rejected, Numbers: n.unreadNumbers, IsTooMany: true}
	}
	if done.Parts != nil {
		if err := done.Parts.Close(); err != nil {
			return nil, err
		}
	}
	if rejects == nil && n.Rejects != "" {
		if done.DroppedRejects, err = n.dropOldRejects(); err != nil {
			return nil, err
		}
	}
	if n.Describe != nil && done.Parts == nil {
		if err := n.Describe(options.AllFields(n.Source)); err != nil {
			return nil, err
		}
	}
	return done, n.Files.Commit()
}

// dropOldRejects removes the rejects of an earlier run, since this one has none: beside its
// output they would be taken for its own. It returns the file that was removed.
func (n *Normalise) dropOldRejects() (string, error) {
	if output.IsStream(n.Rejects) || n.Files.Check(n.Rejects) != nil {
		return "", nil // the file that is being normalised may be one of rejects
	}
	old, err := table.Open(n.Files.Context(), []string{n.Rejects}, nil, delimited.Form{})
	if err != nil {
		return "", nil
	}
	defer old.Close()
	if !normalise.IsRejects(old) {
		return "", nil
	}
	return n.Rejects, n.Files.Remove(n.Rejects)
}
