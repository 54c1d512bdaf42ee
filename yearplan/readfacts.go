package yearplan

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"go.yaml.in/yaml/v4"

	"roundyear/calendar"
	"roundyear/charset"
	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/facts/formula"
	"roundyear/nearest"
)

var unitsByName = map[string]calendar.Unit{"day": calendar.Day, "week": calendar.Week, "month": calendar.Month, "quarter": calendar.Quarter, "half": calendar.Half, "year": calendar.Year}

func (r *reader) readFacts(node *yaml.Node) {
	if node == nil || isNothing(resolved(node)) {
		return
	}
	r.soundFacts = r.sound(node)
	for key, value := range entries(node) {
		facts := Facts{Name: key.Value, Files: texts(value, "files"), BlankAs: texts(value, "blank_as"), OrderPer: text(value, "order_per"), Out: text(value, "out")}
		facts.Delimiter, facts.Quote, facts.Comment = text(value, "delimiter"), text(value, "quote"), text(value, "comment")
		facts.Placeholders = texts(value, "placeholder")
		facts.Widths, facts.Ragged = texts(value, "widths"), texts(value, "ragged")
		if header := text(value, "header"); header != "" {
			has := header == "true"
			facts.Header = &has
		}
		facts.Skip, facts.Encoding, facts.Minus = integerAt(value, "skip"), text(value, "encoding"), text(value, "minus")
		if facts.Encoding != "" {
			if _, err := charset.Of(facts.Encoding); err != nil {
				r.add(below(value, "encoding"), "", "%v", err)
			}
		}
		for old, name := range entries(below(value, "rename")) {
			facts.Renames = append(facts.Renames, old.Value+"="+resolved(name).Value)
		}
		facts.Lets, facts.LoadedThrough = texts(value, "let"), texts(value, "loaded_through")
		facts.Keep, facts.Distinct, facts.Sort, facts.Texts = texts(value, "keep"), texts(value, "distinct"), texts(value, "sort"), texts(value, "texts")
		facts.Numbers = texts(value, "numbers")
		for i, let := range facts.Lets {
			if _, err := formula.Parse(let); err != nil {
				r.add(items(below(value, "let"))[i], "", "%q %v", let, err)
			}
		}
		for column, is := range entries(below(value, "swapped")) {
			if facts.Swapped == nil {
				facts.Swapped = map[string]bool{}
			}
			facts.Swapped[column.Value] = resolved(is).Value == "true"
		}
		facts.Decimals = map[string]string{}
		for column, mark := range entries(below(value, "decimal")) {
			facts.Decimals[column.Value] = resolved(mark).Value
		}
		if !r.sound(value) {
			r.plan.Facts = append(r.plan.Facts, facts)
			continue
		}
		if strings.ContainsAny(key.Value, ". ") {
			r.add(key, "", "a name of facts must not contain dots or spaces: %q", key.Value)
		}
		if len(facts.Files) == 0 {
			r.add(value, "Add files: data/sales.csv", "the facts %s have no files", key.Value)
		}
		if facts.Widths != nil && (facts.Delimiter != "" || facts.Quote != "") {
			r.add(below(value, "widths"), "", "columns of fixed widths have no delimiter and no quotes")
		}
		for column, how := range entries(below(value, "dates")) {
			facts.Dates = append(facts.Dates, r.readDates(column.Value, how))
		}
		r.plan.Facts = append(r.plan.Facts, facts)
	}
}

// grainName is the name of a grain, whose labels are read.
var grainName = regexp.MustCompile(`^([a-z][a-z0-9_]*\.)?(week|month|quarter|trimester|third|half|year)$`)

func (r *reader) readDates(column string, node *yaml.Node) Dates {
	dates := Dates{Column: column, Pattern: text(node, "pattern"), Order: text(node, "order"), Language: text(node, "language"),
		Zone: text(node, "zone"), ToZone: text(node, "to_zone"), DayStarts: text(node, "day_starts"), Parts: texts(node, "parts"), Grain: unitsByName[text(node, "grain")]}
	if dates.Pattern != "" && !grainName.MatchString(dates.Pattern) {
		if _, err := datetext.Compile(dates.Pattern); err != nil {
			r.add(below(node, "pattern"), "", "%v", err)
		}
	}
	if parts := len(dates.Parts); parts > 3 || parts > 0 && parts < 3 && slices.ContainsFunc(dates.Parts, func(part string) bool { return !strings.Contains(part, ":") }) {
		r.add(below(node, "parts"), "Write [YEAR, MONTH, DAY], or columns with their roles such as [year:Y, week:W]", "parts must list three columns, for the year, the month and the day, not %d", parts)
	}
	if dates.Language != "" {
		if _, err := datetext.LanguageOf(dates.Language); err != nil {
			r.add(below(node, "language"), "", "%v", err)
		}
	}
	if dates.Zone != "" || dates.ToZone != "" {
		if _, err := datetext.NewConversion(dates.Zone, dates.ToZone); err != nil {
			at := below(node, "zone")
			if at == nil {
				at = below(node, "to_zone")
			}
			r.add(at, "", "%v", err)
		}
	}
	return dates
}

func (r *reader) readRange(node *yaml.Node) {
	if !r.sound(node) {
		return
	}
	p := r.plan
	p.Range.Cover = r.joins(below(node, "cover"))
	p.Range.Exact, p.Range.Whole = text(node, "whole") == "exact", text(node, "whole") == "years"
	if years := text(node, "pad_years"); years != "" {
		p.Range.PadYears = integerOf(years)
	}
	day := func(key string) *civil.Day {
		if found := text(node, key); found != "" {
			parsed := dayOf(found)
			return &parsed
		}
		return nil
	}
	p.Range.From, p.Range.To = day("from"), day("to")
	if p.Range.From != nil && p.Range.To != nil && *p.Range.To < *p.Range.From {
		r.add(below(node, "to"), "", "the range ends on %s, before it starts on %s", *p.Range.To, *p.Range.From)
	}
	if (p.Range.From == nil) != (p.Range.To == nil) && below(node, "cover") == nil {
		r.add(node, "Add the other one, or cover", "a range needs from and to, or cover")
	}
}

// joins reads a list of FACTS.COLUMN. Facts and columns have to be in the plan.
func (r *reader) joins(node *yaml.Node) []Join {
	var joins []Join
	for _, item := range items(node) {
		value := resolved(item).Value
		name, column, found := strings.Cut(value, ".")
		if !found {
			r.add(item, "", "a date column must be written as FACTS.COLUMN, such as sales.sold_at, not %q", value)
			continue
		}
		facts := r.plan.FactsNamed(name)
		if facts == nil {
			r.noFacts(item, name)
			continue
		}
		if facts.DatesOf(column) == nil && r.soundFacts {
			var columns []string
			for _, dates := range facts.Dates {
				columns = append(columns, dates.Column)
			}
			remedy := fmt.Sprintf("Add it under facts.%s.dates", name)
			if near := nearest.Name(column, columns); near != "" {
				remedy = fmt.Sprintf("Did you mean %s.%s?", name, near)
			} else if len(columns) > 0 {
				remedy += "; they have " + strings.Join(columns, ", ")
			}
			r.add(item, remedy, "the facts %s have no date column %q", name, column)
			continue
		}
		joins = append(joins, Join{name, column})
	}
	return joins
}
