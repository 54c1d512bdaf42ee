package cli

import (
	"encoding/json"
	"fmt"
	"io"
	"strings"

	"roundyear/cell"
	"roundyear/internal/app"
	"roundyear/internal/report"
)

// unfair is the sign of a comparison that is not fair, and endsEarly that of a group whose data ends before the latest day.
const unfair, endsEarly = "≠", "†"

// writePeople writes a table with a row for each group and measure, why each day was chosen, and the last days.
func (l *latestCommand) writePeople(v *latestView) error {
	l.headline(v)
	file, err := l.app.createPainted("-")
	if err != nil {
		return err
	}
	defer file.Abort()
	colour := l.app.coloured(l.app.stdoutTerminal)
	header, right := []string{}, []bool{}
	column := func(name string, isRight bool) { header, right = append(header, name), append(right, isRight) }
	for _, group := range v.groups {
		column(group, false)
	}
	if len(v.measures) > 1 {
		column("", false)
	}
	name := v.found.Day.String()
	if len(v.measures) == 1 {
		name = v.measureName(0)
	}
	column(name, true)
	all := &v.found.Rows[len(v.found.Rows)-1]
	for _, c := range all.Compared {
		column(string(c.Against), true)
		column("%", true)
	}
	var rows [][]string
	var footer []string
	signs := map[string]bool{}
	for i := range v.found.Rows {
		row := &v.found.Rows[i]
		for m := range v.measures {
			texts := v.peopleRow(row, m, signs)
			if row.IsTotal && len(v.measures) == 1 {
				footer = texts
				continue
			}
			rows = append(rows, texts)
		}
	}
	report.Grid(file, colour, header, right, rows, footer)
	v.writeWhy(file, signs)
	v.writeRecent(file, colour, l.app.tableWidth("-"))
	return l.app.files.Commit()
}

// measureName names a measure with its currency.
func (v *latestView) measureName(m int) string {
	if v.currency != "" && !strings.HasPrefix(v.measures[m].Kind.String(), "count") {
		return v.measures[m].Name + ", " + v.currency
	}
	return v.measures[m].Name
}

// peopleRow is a row of a group and measure.
func (v *latestView) peopleRow(row *app.LatestRow, m int, signs map[string]bool) []string {
	var texts []string
	texts = append(texts, row.Group...)
	if len(v.measures) > 1 {
		texts = append(texts, v.measureName(m))
	}
	value := v.number(m, row.Values[m])
	if row.Last < v.found.Day && !row.IsTotal && len(row.Group) > 0 {
		value, signs[endsEarly] = endsEarly+" "+value, true
	}
	texts = append(texts, value)
	for k := range row.Compared {
		c := &row.Compared[k]
		percent := v.percent(c.Percents[m])
		if c.Found && !c.IsComparable && !c.Values[m].IsBlank() && percent != "" {
			percent, signs[unfair] = unfair+" "+percent, true
		}
		texts = append(texts, v.number(m, c.Values[m]), percent)
	}
	return texts
}

// writeWhy writes why each day was chosen, what makes comparisons unfair, and what the signs mean.
func (v *latestView) writeWhy(out io.Writer, signs map[string]bool) {
	all := &v.found.Rows[len(v.found.Rows)-1]
	fmt.Fprintln(out)
	for k := range all.Compared {
		c := &all.Compared[k]
		fmt.Fprintf(out, "%-9s %s\n", c.Against, v.why(all, c))
		for _, note := range v.notes(all, c) {
			fmt.Fprintf(out, "%-9s ! %s\n", "", note)
		}
	}
	for i := range v.found.Rows[:len(v.found.Rows)-1] {
		row := &v.found.Rows[i]
		for k := range row.Compared {
			if c := &row.Compared[k]; c.Found && (c.Day != all.Compared[k].Day || c.IsOff != all.Compared[k].IsOff) {
				text := v.why(row, c)
				if notes := v.notes(row, c); len(notes) > 0 && c.Against != app.Workday {
					text = strings.Join(notes, "; ")
				}
				fmt.Fprintf(out, "%-9s %s: %s\n", c.Against, strings.Join(row.Group, " "), text)
			}
		}
	}
	if signs[unfair] {
		fmt.Fprintf(out, "%s not a fair comparison, as said above\n", unfair)
	}
	if signs[endsEarly] {
		fmt.Fprintf(out, "%s the data of the group ends earlier\n", endsEarly)
	}
}

// writeRecent writes the last days of all groups as a row, as many as fit.
func (v *latestView) writeRecent(out io.Writer, colour bool, width int) {
	all := &v.found.Rows[len(v.found.Rows)-1]
	recent := all.Recent
	if len(recent) == 0 {
		return
	}
	if width <= 0 {
		width = 100
	}
	header, right := []string{""}, []bool{false}
	rows := make([][]string, len(v.measures))
	taken := 0
	for m, measure := range v.measures {
		rows[m] = []string{measure.Name}
		taken = max(taken, len(measure.Name)+2)
	}
	from := len(recent)
	for from > 0 {
		size := len("Mon 30 ·")
		for m := range v.measures {
			size = max(size, len(v.number(m, recent[from-1].Values[m])))
		}
		if taken += size + 2; taken > width {
			break
		}
		from--
	}
	for _, day := range recent[from:] {
		_, _, dayOfMonth := day.Day.Date()
		name := fmt.Sprintf("%s %d", day.Day.Weekday().String()[:3], dayOfMonth)
		if !day.Counts {
			name += " ·"
		}
		header, right = append(header, name), append(right, true)
		for m := range v.measures {
			rows[m] = append(rows[m], v.number(m, day.Values[m]))
		}
	}
	fmt.Fprintln(out)
	report.Grid(out, colour, header, right, rows, nil)
	if strings.Contains(strings.Join(header, ""), "·") {
		fmt.Fprintln(out, "· day off")
	}
}

// named returns values by the names of their measures, without those that are blank.
func (v *latestView) named(values []cell.Value) map[string]json.Number {
	all := map[string]json.Number{}
	for m, value := range values {
		if !value.IsBlank() {
			all[v.measures[m].Name] = json.Number(value.String())
		}
	}
	return all
}

// writeJSON writes the result as JSON.
func (l *latestCommand) writeJSON(v *latestView) error {
	type compared struct {
		Against      string                 `json:"against"`
		Day          string                 `json:"day,omitempty"`
		Why          string                 `json:"why"`
		Values       map[string]json.Number `json:"values,omitempty"`
		Changes      map[string]json.Number `json:"changes,omitempty"`
		Percents     map[string]json.Number `json:"percents,omitempty"`
		Rows         int                    `json:"rows"`
		IsComparable bool                   `json:"is_comparable"`
		Notes        []string               `json:"notes,omitempty"`
	}
	type recent struct {
		Day    string                 `json:"day"`
		Values map[string]json.Number `json:"values"`
		Rows   int                    `json:"rows"`
		Off    string                 `json:"off,omitempty"`
	}
	type group struct {
		Group   map[string]string      `json:"group,omitempty"`
		IsTotal bool                   `json:"is_total"`
		LastDay string                 `json:"last_day"`
		Rows    int                    `json:"rows"`
		Values  map[string]json.Number `json:"values"`
		Against []compared             `json:"against"`
		Recent  []recent               `json:"recent,omitempty"`
	}
	result := struct {
		Day     string  `json:"day"`
		Weekday string  `json:"weekday"`
		Money   string  `json:"money,omitempty"`
		Groups  []group `json:"groups"`
	}{Day: v.found.Day.String(), Weekday: v.found.Day.Weekday().String(), Money: v.currency}
	for i := range v.found.Rows {
		row := &v.found.Rows[i]
		one := group{IsTotal: row.IsTotal || len(v.groups) == 0, LastDay: row.Last.String(), Rows: row.Count, Values: v.named(row.Values)}
		if !row.IsTotal && len(v.groups) > 0 {
			one.Group = map[string]string{}
			for k, name := range v.groups {
				one.Group[name] = row.Group[k]
			}
		}
		for k := range row.Compared {
			c := &row.Compared[k]
			day := ""
			if c.Found {
				day = c.Day.String()
			}
			one.Against = append(one.Against, compared{string(c.Against), day, v.why(row, c), v.named(c.Values), v.named(c.Changes), v.named(c.Percents), c.Count, c.IsComparable, v.notes(row, c)})
		}
		for _, day := range row.Recent {
			off := ""
			if !day.Counts {
				off = day.Reason
			}
			one.Recent = append(one.Recent, recent{day.Day.String(), v.named(day.Values), day.Count, off})
		}
		result.Groups = append(result.Groups, one)
	}
	encoder := json.NewEncoder(l.app.stdout)
	encoder.SetIndent("", "  ")
	encoder.SetEscapeHTML(false)
	if err := encoder.Encode(result); err != nil {
		return err
	}
	l.headline(v)
	return nil
}
