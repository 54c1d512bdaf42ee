package app

import (
	"cmp"
	"context"

	"roundyear/charset"
	"roundyear/internal/database"
	"roundyear/internal/delimited"
	"roundyear/internal/reading"
	"roundyear/internal/table"
	"roundyear/yearplan"
)

// DaysOffPart is the part of a plan with days off.
const DaysOffPart = "days_off"

// PartFault is a fault of what a part of the plan refers to.
type PartFault struct {
	Part string
	Err  error
}

// formOf is what the plan says of the form of facts.
func formOf(facts *yearplan.Facts) delimited.Form {
	form := delimited.Form{Skip: facts.Skip, BlankAs: facts.BlankAs, Swapped: facts.Swapped}
	form.Layout, _ = delimited.NewLayout(facts.Delimiter, facts.Quote, facts.Comment, facts.Widths, facts.Ragged)
	form.Encoding, _ = charset.Of(cmp.Or(facts.Encoding, "utf-8"))
	switch {
	case facts.Header == nil:
	case *facts.Header:
		form.Header = delimited.HeaderIsThere
	default:
		form.Header = delimited.NoHeader
	}
	return form
}

// FileFaults are the faults of what the plan refers to: files of facts and lists of
// days off that cannot be read, columns that they do not have, and outputs whose
// ending says no format.
func (y *Year) FileFaults(ctx context.Context) []PartFault {
	var faults []PartFault
	add := func(part string, err error) { faults = append(faults, PartFault{part, err}) }
	for i := range y.Plan.Facts {
		facts := &y.Plan.Facts[i]
		part := "facts." + facts.Name
		for _, file := range facts.Files {
			for _, err := range y.factFaults(ctx, facts, y.Path(file)) {
				add(part, err)
			}
		}
	}
	for _, out := range y.Plan.Model.Out {
		if _, err := table.FormatOfPath(y.Path(out)); err != nil && !database.IsTable(out) {
			add("model.dimension.out", err)
		}
	}
	for _, source := range y.Plan.DaysOff {
		if source.File == "" {
			continue
		}
		if _, err := y.ReadList(source); err != nil {
			add(DaysOffPart, err)
		}
	}
	y.Kept = nil // they are said when the lists are used
	return faults
}

// factFaults are the faults of one file, or pattern of files, of facts.
func (y *Year) factFaults(ctx context.Context, facts *yearplan.Facts, path string) (faults []error) {
	source, err := table.Open(ctx, []string{path}, nil, formOf(facts))
	if err != nil {
		return []error{err}
	}
	defer source.Close()
	names := []string{}
	for _, dates := range facts.Dates {
		if len(dates.Parts) > 0 {
			parts, err := reading.NewParts(dates.Column, dates.Parts)
			if err != nil {
				return []error{err}
			}
			names = append(names, parts.Columns...)
		} else {
			names = append(names, dates.Column)
		}
	}
	if facts.OrderPer != "" {
		names = append(names, facts.OrderPer)
	}
	for _, name := range names {
		if _, err := source.Find(name); err != nil {
			faults = append(faults, err)
		}
	}
	return faults
}
