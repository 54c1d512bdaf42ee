package report

import (
	"cmp"
	"strings"

	"roundyear/cell"
	"roundyear/facts/decimal"
)

// Periods says how people are shown a table of measures by period.
type Periods struct {
	// Measures are the names of the measures. If there is only one, what is made of it goes by short names, and bars are drawn.
	Measures []string
	// Others are what the names of the columns of other periods have behind the measure: year_ago, budget.
	Others []string
	// dayWord is what the days of both sides are called.
	dayWord string
}

// sign is what stands in a row in place of a column of true and false.
type sign struct {
	column string
	// isFalse tells that it stands where the column is false.
	isFalse      bool
	sign, legend string
}

// signsOf are the signs of periods.
func (p *Periods) signs() []sign {
	all := []sign{{"is_running", false, runningSign, "running"}, {"is_filled", false, "○", "no rows"}, {"is_loaded", true, "?", "not loaded yet"}, {"is_carried", false, "←", "from other periods"}}
	for _, other := range p.Others {
		all = append(all, sign{"is_" + other + "_comparable", true, "×", "change left out: one of the two is incomplete"}, sign{"is_" + other + "_leap_week", false, "±", "one of the two has a leap week"})
	}
	return append(all, sign{"", false, "≠", "different number of " + cmp.Or(p.dayWord, "workdays")})
}

const (
	runningSign = "…"
	// signsColumn is the name of the column of signs.
	signsColumn = "signs"
)

// setPeriods makes a table of periods ready to be shown: signs in place of true and false, days of both sides only where they differ, and
// percentages with their sign. It returns the headings of the columns, and the legend of the signs.
func (r *Rows) setPeriods() (headings []string, legend string) {
	p := r.periods
	places := map[string]int{}
	for i, column := range r.columns {
		places[column.Name] = i
	}
	signs := make([][]string, len(r.rows))
	used := map[string]bool{}
	all := p.signs()
	mark := func(row int, s sign) {
		for _, own := range signs[row] {
			if own == s.sign {
				return
			}
		}
		signs[row], used[s.sign] = append(signs[row], s.sign), true
	}
	gone := map[int]bool{}
	for _, s := range all {
		at, ok := places[s.column]
		if !ok {
			continue
		}
		gone[at] = true
		for i, row := range r.rows {
			if (row[at] == "yes") != s.isFalse && p.hasOther(s.column, row, places) {
				mark(i, s)
			}
		}
	}
	p.setDays(r, places, gone, func(row int) { mark(row, all[len(all)-1]) })
	if at, ok := places["is_total"]; ok {
		gone[at] = true // it is told by what stands in place of the group
	}
	for i, column := range r.columns {
		if !p.isPercent(column) {
			continue
		}
		for _, row := range r.rows {
			row[i] = percentText(row[i], !strings.Contains(column.Name, "_percent_of_"))
		}
	}
	for i, column := range r.columns {
		if p.isRate(column) {
			for _, row := range r.rows {
				row[i] = shorter(row[i])
			}
		}
	}
	r.bars = r.barValues(places)
	var kept []int
	for i := range r.columns {
		if !gone[i] {
			kept = append(kept, i)
		}
	}
	r.columns = picked(r.columns, kept)
	for i, row := range r.rows {
		r.rows[i] = picked(row, kept)
	}
	if r.footer != nil {
		r.footer = picked(r.footer, kept)
	}
	for _, column := range r.columns {
		headings = append(headings, p.heading(column))
	}
	if len(used) == 0 {
		return headings, ""
	}
	r.columns, headings = append(r.columns, cell.Column{Name: signsColumn, Type: cell.Text}), append(headings, "")
	for i := range r.rows {
		r.rows[i] = append(r.rows[i], strings.Join(signs[i], " "))
	}
	if r.footer != nil {
		r.footer = append(r.footer, "")
	}
	var texts []string
	for _, s := range p.signs() {
		if used[s.sign] {
			texts = append(texts, s.sign+" "+s.legend)
			used[s.sign] = false
		}
	}
	return headings, strings.Join(texts, ";  ")
}

// hasOther tells whether a row has a value of the other period that a column is about; columns about none always have.
func (p *Periods) hasOther(column string, row []string, places map[string]int) bool {
	for _, other := range p.Others {
		if !strings.HasPrefix(column, "is_"+other+"_") {
			continue
		}
		for _, measure := range p.Measures {
			if at, ok := places[measure+"_"+other]; ok && row[at] != "" {
				return true
			}
		}
		return false
	}
	return true
}

// setDays leaves the days of the other period only where they differ; columns that never do are left out.
func (p *Periods) setDays(r *Rows, places map[string]int, gone map[int]bool, differs func(row int)) {
	for _, days := range []string{"days", "workdays", "trading_days"} {
		own, ok := places[days]
		if !ok {
			continue
		}
		anyDiffers := false
		for _, other := range p.Others {
			at, ok := places[days+"_"+other]
			if !ok {
				continue
			}
			gone[at] = true
			for i, row := range r.rows {
				if row[at] == "" || row[at] == row[own] {
					row[at] = ""
					continue
				}
				anyDiffers, gone[at] = true, false
				if days != "days" {
					p.dayWord = strings.ReplaceAll(days, "_", " ")
					differs(i)
				}
			}
		}
		_, isDivided := places[strings.Join(p.Measures[:1], "")+"_per_"+strings.TrimSuffix(days, "s")]
		gone[own] = !anyDiffers && !isDivided
	}
}

func (p *Periods) isPercent(column cell.Column) bool {
	return column.Type == cell.Decimal && (strings.HasSuffix(column.Name, "_percent") || strings.Contains(column.Name, "_percent_of_"))
}

// isRate tells whether a column is of what a measure is per day.
func (p *Periods) isRate(column cell.Column) bool {
	return column.Type == cell.Decimal && strings.Contains(column.Name, "_per_") && !p.isPercent(column)
}

// shorter rounds a number with two decimals more than people need.
func shorter(text string) string {
	number, err := decimal.Parse([]byte(strings.ReplaceAll(text, ",", "")))
	if err != nil || number.Scale() <= 2 {
		return text
	}
	return Grouped(number.Round(number.Scale() - 2).Text(number.Scale() - 2))
}

// percentText writes a percentage, a change with its sign.
func percentText(text string, isChange bool) string {
	switch {
	case text == "":
		return ""
	case isChange && !strings.HasPrefix(text, "-") && strings.Trim(text, "0.,") != "":
		return "+" + text + "%"
	}
	return text + "%"
}

// heading is what a column is called. What is made of the only measure goes without its name.
func (p *Periods) heading(column cell.Column) string {
	for _, other := range p.Others {
		if days, ok := strings.CutSuffix(column.Name, "days_"+other); ok && (days == "" || days == "work" || days == "trading_") {
			return strings.ReplaceAll(days, "_", " ") + "days"
		}
	}
	if len(p.Measures) != 1 {
		return column.Name
	}
	name, ok := strings.CutPrefix(column.Name, p.Measures[0]+"_")
	if !ok {
		return column.Name
	}
	for _, other := range p.Others {
		rest, isOther := strings.CutPrefix(name, other)
		if !isOther || rest != "" && rest[0] != '_' {
			continue
		}
		switch rest {
		case "":
			return strings.ReplaceAll(other, "_", "-")
		case "_change":
			return "change"
		}
		if strings.HasSuffix(rest, "_percent") {
			return "%"
		}
		return "then " + strings.ReplaceAll(strings.TrimPrefix(rest, "_"), "_", " ")
	}
	if of, isShare := strings.CutPrefix(name, "percent_of_"); isShare {
		return "% of " + of
	}
	return strings.ReplaceAll(name, "_", " ")
}

// setBeside sets signs behind the values of periods that stand side by side, in place of their columns of true and false, and returns
// what they mean.
func (r *Rows) setBeside() (legend string) {
	places := map[string]int{}
	for i, column := range r.columns {
		places[column.Name] = i
	}
	var kept []int
	var texts []string
	for i, column := range r.columns {
		kept = append(kept, i)
		for _, s := range (&Periods{}).signs() {
			side, ok := strings.CutPrefix(column.Name, s.column+" ")
			if s.column == "" || !ok {
				continue
			}
			at, ok := places[side]
			if !ok {
				at = r.firstOf(side)
			}
			if at < 0 {
				continue
			}
			kept = kept[:len(kept)-1]
			for _, row := range r.rows {
				if (row[i] == "yes") != s.isFalse && row[at] != "" {
					row[at] += " " + s.sign
				}
			}
			if text := s.sign + " " + s.legend; !strings.Contains(strings.Join(texts, ""), text) {
				texts = append(texts, text)
			}
		}
	}
	if len(kept) == len(r.columns) {
		return ""
	}
	r.columns = picked(r.columns, kept)
	for i, row := range r.rows {
		r.rows[i] = picked(row, kept)
	}
	for i, column := range r.columns { // values with and without a sign stay below each other
		if column.Type == cell.Text || !strings.ContainsAny(strings.Join(columnOf(r.rows, i), ""), "…○?←") {
			continue
		}
		for _, row := range r.rows {
			if row[i] != "" && !strings.Contains(row[i], " ") {
				row[i] += "  "
			}
		}
	}
	return strings.Join(texts, ";  ")
}

// firstOf returns the first column of a side, such as amount FY2026; -1 if there is none.
func (r *Rows) firstOf(side string) int {
	for i, column := range r.columns {
		if strings.HasSuffix(column.Name, " "+side) && column.Type != cell.Boolean {
			return i
		}
	}
	return -1
}

func columnOf(rows [][]string, at int) (texts []string) {
	for _, row := range rows {
		texts = append(texts, row[at])
	}
	return texts
}
