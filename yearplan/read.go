package yearplan

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v4"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/daysoff"
	"roundyear/dimension"
	"roundyear/fault"
	"roundyear/internal/nearest"
	"roundyear/language"
)

// Read reads a plan. What is said elsewhere and wins over the plan's weeks is
// done to it by adjust before its calendars are made of them. The error is the
// Faults of the plan, all of them.
func Read(file string, content []byte, adjust ...func(*Plan)) (*Plan, error) {
	c := &checker{file: file}
	root, problem := parse(file, content)
	if problem != nil {
		return nil, fault.List{problem}
	}
	p := Default()
	p.File = file
	if isNothing(root) {
		c.add(root, "It must start with roundyear: 1", "the plan is empty")
		return nil, c.faults
	}
	c.check(root, &form, planPath)
	if below(root, "roundyear") == nil && root.Kind == yaml.MappingNode {
		c.add(root, "Start it with roundyear: 1", "the plan does not state its format version")
	}
	r := &reader{checker: c, plan: p, adjust: adjust, shapeFaults: slices.Clone(c.faults)}
	r.read(root)
	if len(c.faults) > 0 {
		return nil, c.faults.Sorted()
	}
	return p, nil
}

// yamlFault is where the parser says that it has failed.
var yamlFault = regexp.MustCompile(`(?s)at L(\d+)\.C(\d+)(?:-L\d+\.C\d+)?: (.*)$`)

// parse reads the text as YAML, one document.
func parse(file string, content []byte) (*yaml.Node, *fault.Fault) {
	if len(strings.TrimSpace(string(content))) == 0 {
		return &yaml.Node{Kind: yaml.ScalarNode, Tag: "!!null", Line: 1, Column: 1}, nil
	}
	var document yaml.Node
	err := yaml.Load(content, &document)
	if err == nil && len(document.Content) == 1 {
		return document.Content[0], nil
	}
	if err == nil {
		return &yaml.Node{Kind: yaml.ScalarNode, Tag: "!!null", Line: 1, Column: 1}, nil
	}
	if strings.Contains(err.Error(), "no documents") {
		return &yaml.Node{Kind: yaml.ScalarNode, Tag: "!!null", Line: 1, Column: 1}, nil
	}
	problem := &fault.Fault{File: file, Line: 1, Char: 1, What: "this is not valid YAML: " + err.Error()}
	found := yamlFault.FindStringSubmatch(err.Error())
	switch {
	case strings.Contains(err.Error(), "expected single document"):
		problem.What, problem.Remedy = "a plan must be one YAML document, but this file has several", "Remove the --- lines"
	case found != nil:
		problem.Line, _ = strconv.Atoi(found[1])
		problem.Char, _ = strconv.Atoi(found[2])
		problem.What = "this is not valid YAML: " + found[3]
		lines := strings.Split(string(content), "\n")
		if problem.Line <= len(lines) && strings.HasPrefix(strings.TrimLeft(lines[problem.Line-1], " "), "\t") {
			problem.What, problem.Remedy = "a line is indented with a tab", "Indent with spaces: YAML does not allow tabs here"
		}
	}
	return nil, problem
}

// reader turns a plan that has the right shape into the types of the core.
type reader struct {
	*checker
	plan        *Plan
	adjust      []func(*Plan)
	shapeFaults fault.List
	// soundFacts tells that all facts have the right shape, so that what is not
	// among their dates is not there.
	soundFacts bool
	// exceptions are those of sites by the node that they stand in, since many
	// sites may share one.
	exceptions map[*yaml.Node]*daysoff.Exceptions
}

// sound tells whether a part of the plan has the right shape, so that what it
// means can be looked at. What is not there is not sound.
func (r *reader) sound(node *yaml.Node) bool {
	if node == nil {
		return false
	}
	first, last := extent(node)
	return !slices.ContainsFunc(r.shapeFaults, func(f *fault.Fault) bool {
		return (f.Line > first.Line || f.Line == first.Line && f.Char >= first.Column) &&
			(f.Line < last.Line || f.Line == last.Line && f.Char <= last.Column)
	})
}

// extent returns the first and the last node below a node.
func extent(node *yaml.Node) (first, last *yaml.Node) {
	first, last = node, node
	for _, below := range node.Content {
		_, end := extent(below)
		if end.Line > last.Line || end.Line == last.Line && end.Column > last.Column {
			last = end
		}
	}
	return first, last
}

func (r *reader) read(root *yaml.Node) {
	p := r.plan
	if tags := below(root, "language"); r.sound(tags) {
		p.Names = nil
		for _, item := range items(tags) {
			names, err := language.Of(resolved(item).Value)
			if err == nil && !slices.ContainsFunc(p.Names, func(n *language.Names) bool { return strings.EqualFold(n.Tag, names.Tag) }) {
				p.Names = append(p.Names, names)
			}
		}
		if len(p.Names) == 0 {
			p.Names = []*language.Names{language.English}
		}
	}
	if weeks := below(root, "weeks"); r.sound(weeks) {
		if name := text(weeks, "first_day"); name != "" {
			p.Weeks.First = weekdayOf(name)
		}
		if days := text(weeks, "min_days"); days != "" {
			p.Weeks.MinDays, _ = strconv.Atoi(days)
		}
	}
	if weekend := below(root, "weekend"); r.sound(weekend) {
		p.Weekend = []civil.Weekday{}
		for _, item := range items(weekend) {
			p.Weekend = append(p.Weekend, weekdayOf(resolved(item).Value))
		}
	}
	for _, adjust := range r.adjust {
		adjust(p)
	}
	r.readCalendars(below(root, "calendars"))
	r.readLabels(below(root, "labels"))
	r.readSpecialRows(below(root, "special_rows"))
	r.readClock(below(root, "clock"))
	r.readFacts(below(root, "facts"))
	r.readSites(below(root, "sites"))
	r.readDaysOff(below(root, "days_off"))
	r.readRange(below(root, "range"))
	r.readModel(below(root, "model"))
}

var calendarName = regexp.MustCompile(`^[a-z][a-z0-9]*(_[a-z0-9]+)*$`)

func (r *reader) readCalendars(node *yaml.Node) {
	if node == nil || isNothing(resolved(node)) {
		return
	}
	taken := dimension.ReservedNames()
	for key, value := range entries(node) {
		name := key.Value
		switch {
		case slices.Contains(taken, name):
			r.add(key, "Choose another name, such as fiscal", "a calendar cannot be named %q, which is built in", name)
			continue
		case !calendarName.MatchString(name):
			r.add(key, "", "a calendar's name becomes part of column names, so it must consist of lower-case letters, digits and underscores, not %q", name)
			continue
		case !r.sound(value):
			continue
		}
		if read := r.readCalendar(name, value); read != nil {
			r.plan.Fiscal = append(r.plan.Fiscal, read)
		}
	}
}

func (r *reader) readCalendar(name string, node *yaml.Node) calendar.Calendar {
	var first calendar.Calendar
	var changes []calendar.Since
	rules := items(node)
	if len(rules) == 0 {
		r.add(node, "Add months, weeks or years", "the calendar %s has no rule", name)
	}
	for i, rule := range rules {
		read := r.readRule(name, rule)
		if read == nil {
			return nil
		}
		since := below(rule, "since")
		switch {
		case i == 0 && since != nil:
			r.add(since, "Put the earlier rule first, or remove since", "the first rule of %s has no start", name)
			return nil
		case i == 0:
			first = read
			continue
		case since != nil:
			from, _ := civil.Parse(resolved(since).Value)
			changes = append(changes, calendar.Since{From: from, Calendar: read})
		default:
			declared, ok := read.(calendar.Bounded)
			if !ok {
				r.add(rule, "Add since: 2026-04-01", "the second and later rules of %s need a start", name)
				return nil
			}
			from, _ := declared.Bounds()
			changes = append(changes, calendar.Since{From: from, Calendar: read})
		}
	}
	if len(changes) == 0 {
		return first
	}
	delete(r.plan.Months, name)
	changing, err := calendar.NewSequence(name, first, changes...)
	if err != nil {
		r.add(node, "", "%s: %v", name, err)
		return nil
	}
	return changing
}

func (r *reader) readRule(name string, node *yaml.Node) calendar.Calendar {
	months, weeks, years := below(node, "months"), below(node, "weeks"), below(node, "years")
	count := 0
	for _, kind := range []*yaml.Node{months, weeks, years} {
		if kind != nil {
			count++
		}
	}
	if count != 1 {
		r.add(node, "", "a rule of %s must have one of months, weeks and years, but this one has %s", name, []string{"none of them", "", "two of them", "all of them"}[count])
		return nil
	}
	labels := calendar.Labels{}
	for _, label := range labelFields {
		if template := text(node, label.key); template != "" {
			labels[label.unit] = template
		}
	}
	namedBy, _ := calendar.ParseNamedBy(text(node, "named_by"))
	var read calendar.Calendar
	var err error
	var at *yaml.Node
	switch {
	case months != nil:
		at = months
		read, err = r.readMonths(name, months, namedBy, labels)
	case weeks != nil:
		at = weeks
		read, err = r.readWeeks(name, weeks, namedBy, labels)
	default:
		at = years
		read, err = r.readYears(name, years, labels)
	}
	if err != nil {
		if !errors.Is(err, errReported) {
			r.addRule(node, at, name, err)
		}
		return nil
	}
	return read
}

// addRule puts a fault of a rule at the label or the group that it is about,
// else at the rule.
func (r *reader) addRule(rule, at *yaml.Node, name string, err error) {
	for _, label := range labelFields {
		if found := below(rule, label.key); found != nil && strings.Contains(err.Error(), strconv.Quote(resolved(found).Value)) {
			r.add(found, "", "%s: %v", name, err)
			return
		}
	}
	for _, group := range groupFields {
		if found := below(at, group.key); found != nil && strings.HasPrefix(err.Error(), group.key) {
			r.add(found, "", "%s: %v", name, err)
			return
		}
	}
	var setting *calendar.SettingError
	if errors.As(err, &setting) {
		if found := below(at, settingKeys[setting.Setting]); found != nil {
			at = found
		}
	}
	r.add(at, "", "%s: %v", name, err)
}

// settingKeys are the keys of a plan for settings of a calendar.
var settingKeys = map[calendar.Setting]string{calendar.StartDay: "starts", calendar.NearestDate: "nearest_to", calendar.LeapWeek: "leap_week"}

// errReported is an error of which the fault has been added.
var errReported = errors.New("the fault is known")

func readGroups(node *yaml.Node) calendar.Groups {
	groups := calendar.Groups{}
	for _, group := range groupFields {
		for _, number := range texts(node, group.key) {
			value, _ := strconv.Atoi(number)
			groups[group.unit] = append(groups[group.unit], value)
		}
	}
	return groups
}

func (r *reader) readMonths(name string, node *yaml.Node, namedBy calendar.NamedBy, labels calendar.Labels) (calendar.Calendar, error) {
	fiscal := calendar.FiscalMonths{Name: name, NamedBy: namedBy, Labels: labels, Groups: readGroups(node), Weeks: r.plan.Weeks}
	starts, ends := text(node, "starts"), text(node, "ends")
	switch {
	case starts != "" && ends != "":
		r.add(below(node, "ends"), "Remove one of them", "starts and ends mean the same")
		return nil, errReported
	case ends != "":
		month, day, _ := dayOfYear(ends, true)
		if day == 0 || day >= civil.DaysIn(2001, month) {
			fiscal.Starts, fiscal.StartDay = month%12+1, 1
		} else {
			fiscal.Starts, fiscal.StartDay = month, day+1
		}
	case starts != "":
		fiscal.Starts, fiscal.StartDay, _ = dayOfYear(starts, true)
	default:
		r.add(node, "Add starts: april, or ends: march", "the months of %s have no first month", name)
		return nil, errReported
	}
	r.plan.Months[name] = fiscal
	return calendar.NewFiscalMonths(fiscal)
}

func (r *reader) readWeeks(name string, node *yaml.Node, namedBy calendar.NamedBy, labels calendar.Labels) (calendar.Calendar, error) {
	fiscal := calendar.FiscalWeeks{Name: name, NamedBy: namedBy, Labels: labels, Groups: readGroups(node)}
	lastIn, nearestTo := text(node, "last_in"), text(node, "nearest_to")
	switch {
	case text(node, "ends_on") == "":
		r.add(node, "Add ends_on: saturday", "the weeks of %s have no last weekday", name)
		return nil, errReported
	case lastIn != "" && nearestTo != "":
		r.add(below(node, "nearest_to"), "Remove one of them", "last_in and nearest_to cannot be combined")
		return nil, errReported
	case lastIn != "":
		fiscal.LastIn = monthOf(lastIn)
	case nearestTo != "":
		fiscal.NearestMonth, fiscal.NearestDay, _ = dayOfYear(nearestTo, false)
	default:
		r.add(node, "Add last_in: september, or nearest_to: 31 january", "the weeks of %s have no end of the year", name)
		return nil, errReported
	}
	fiscal.EndsOn = weekdayOf(text(node, "ends_on"))
	split := below(node, "split")
	if split == nil {
		r.add(node, "Add split: 4-4-5, 4-5-4, 5-4-4, 13x4 or a list of weeks", "the weeks of %s have no split into periods", name)
		return nil, errReported
	}
	var err error
	if fiscal.Split, err = weeksOf(texts(node, "split")); err != nil {
		r.add(split, "", "%s: %v", name, err)
		return nil, errReported
	}
	if leap := text(node, "leap_week"); leap != "" && leap != "last" {
		fiscal.LeapWeek, _ = strconv.Atoi(leap)
	}
	return calendar.NewFiscalWeeks(fiscal)
}

func (r *reader) readYears(name string, node *yaml.Node, labels calendar.Labels) (calendar.Calendar, error) {
	fiscal := calendar.DeclaredYears{Name: name, Labels: labels, Weeks: r.plan.Weeks}
	list := items(node)
	for i, item := range list {
		year := calendar.DeclaredYear{Groups: readGroups(item)}
		year.Year, _ = strconv.Atoi(text(item, "year"))
		for _, start := range texts(item, "starts") {
			day, _ := civil.Parse(start)
			year.Starts = append(year.Starts, day)
		}
		switch ends := text(item, "ends"); {
		case year.Year == 0:
			r.add(item, "Add year: 2026", "a declared year of %s has no number", name)
			return nil, errReported
		case ends != "":
			year.Ends, _ = civil.Parse(ends)
		case i+1 < len(list) && len(texts(list[i+1], "starts")) > 0:
			next, _ := civil.Parse(texts(list[i+1], "starts")[0])
			year.Ends = next - 1
		default:
			r.add(item, "Add ends: with its last day", "the last declared year of %s has no end", name)
			return nil, errReported
		}
		fiscal.Years = append(fiscal.Years, year)
	}
	return calendar.NewDeclared(fiscal)
}

func (r *reader) readLabels(node *yaml.Node) {
	for key, value := range entries(node) {
		if !r.sound(value) {
			continue
		}
		if !calendarName.MatchString(key.Value) {
			r.add(key, "To give the column another name, use model.dimension.rename", "a label's name must consist of lower-case letters, digits and underscores, not %q", key.Value)
			continue
		}
		pattern, err := language.ParsePattern(resolved(value).Value)
		if err != nil {
			r.add(value, "", "%v", err)
			continue
		}
		r.plan.Labels = append(r.plan.Labels, dimension.Label{Name: key.Value, Pattern: pattern})
	}
}

func (r *reader) readSpecialRows(node *yaml.Node) {
	if !r.sound(node) {
		return
	}
	keys := map[int]string{}
	for _, row := range []dimension.SpecialRow{dimension.Unknown, dimension.NotYet, dimension.NotApplicable} {
		value := below(node, row.Name)
		if value == nil {
			continue
		}
		if key := text(value, "key"); key != "" {
			row.Key, _ = strconv.Atoi(key)
		}
		if label := text(value, "label"); label != "" {
			row.Label = label
		}
		row.BlankFlags, row.NumbersAreKey = text(value, "flags") == "blank", text(value, "numbers") == "key"
		if other, taken := keys[row.Key]; taken {
			r.add(value, "Give each row its own key", "%s and %s have the same key %d", row.Name, other, row.Key)
		}
		keys[row.Key] = row.Name
		r.plan.Special = append(r.plan.Special, row)
	}
}

var clockGrain = &scalar{what: "a step such as 15 minutes", accepts: func(text string) bool { _, ok := ParseStep(text); return ok },
	schema: map[string]any{"type": "string", "pattern": "^([0-9]+ ?)?(s|seconds?|m|minutes?)$"}}

var stepPattern = regexp.MustCompile(`^(\d{1,5})? ?(s|second|seconds|m|min|minute|minutes|h|hour|hours)$`)

// ParseStep reads the grain of the time-of-day dimension as seconds: seconds,
// minutes, 15 minutes, 15m, hours.
func ParseStep(text string) (int, bool) {
	found := stepPattern.FindStringSubmatch(strings.ToLower(strings.TrimSpace(text)))
	if found == nil {
		return 0, false
	}
	count := 1
	if found[1] != "" {
		count, _ = strconv.Atoi(found[1])
	}
	return count * map[byte]int{'s': 1, 'm': 60, 'h': 3600}[found[2][0]], count > 0
}

func (r *reader) readClock(node *yaml.Node) {
	if !r.sound(node) {
		return
	}
	step := 0
	if grain := text(node, "grain"); grain != "" {
		step, _ = ParseStep(grain)
	}
	var parts []dimension.DayPart
	for key, value := range entries(below(node, "parts")) {
		seconds, _ := secondsOf(resolved(value).Value)
		parts = append(parts, dimension.DayPart{Name: key.Value, Starts: seconds})
	}
	if _, err := dimension.NewClock(max(step, 1), parts); err != nil {
		r.add(node, "", "clock: %v", err)
		return
	}
	r.plan.Clock = Clock{step, parts}
}

var unitsByName = map[string]calendar.Unit{"day": calendar.Day, "week": calendar.Week, "month": calendar.Month, "quarter": calendar.Quarter, "half": calendar.Half, "year": calendar.Year}

func (r *reader) readFacts(node *yaml.Node) {
	if node == nil || isNothing(resolved(node)) {
		return
	}
	r.soundFacts = r.sound(node)
	for key, value := range entries(node) {
		facts := Facts{Name: key.Value, Files: texts(value, "files"), OrderPer: text(value, "order_per"), Out: text(value, "out")}
		if header := text(value, "header"); header != "" {
			has := header == "true"
			facts.Header = &has
		}
		facts.Skip, _ = strconv.Atoi(text(value, "skip"))
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
		for column, how := range entries(below(value, "dates")) {
			facts.Dates = append(facts.Dates, r.readDates(column.Value, how))
		}
		r.plan.Facts = append(r.plan.Facts, facts)
	}
}

func (r *reader) readDates(column string, node *yaml.Node) Dates {
	dates := Dates{Column: column, Pattern: text(node, "pattern"), Order: text(node, "order"), Language: text(node, "language"),
		Zone: text(node, "zone"), ToZone: text(node, "to_zone"), DayStarts: text(node, "day_starts"), Parts: texts(node, "parts"), Grain: unitsByName[text(node, "grain")]}
	if dates.Pattern != "" {
		if _, err := datetext.Compile(dates.Pattern); err != nil {
			r.add(below(node, "pattern"), "", "%v", err)
		}
	}
	if parts := len(dates.Parts); parts != 0 && parts != 3 {
		r.add(below(node, "parts"), "", "parts must list three columns, for the year, the month and the day, not %d", parts)
	}
	if dates.Language != "" {
		if _, err := datetext.LanguageOf(dates.Language); err != nil {
			r.add(below(node, "language"), "", "%v", err)
		}
	}
	if dates.Zone != "" || dates.ToZone != "" {
		if dates.ToZone == "" {
			dates.ToZone = dates.Zone
		}
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
		p.Range.PadYears, _ = strconv.Atoi(years)
	}
	day := func(key string) *civil.Day {
		if found := text(node, key); found != "" {
			parsed, _ := civil.Parse(found)
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
			var names []string
			for _, f := range r.plan.Facts {
				names = append(names, f.Name)
			}
			remedy := "Add them under facts"
			if near := nearest.Name(name, names); near != "" {
				remedy = fmt.Sprintf("Did you mean %s?", near)
			} else if len(names) > 0 {
				remedy += "; there are " + strings.Join(names, ", ")
			}
			r.add(item, remedy, "there are no facts named %q", name)
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

func (r *reader) readModel(node *yaml.Node) {
	if !r.sound(node) {
		return
	}
	p, dates := r.plan, below(node, "dimension")
	if name := text(dates, "name"); name != "" {
		p.Model.Name = name
	}
	p.Model.Columns, p.Model.Out = texts(dates, "columns"), texts(dates, "out")
	p.Model.Naming = Naming{Case: text(dates, "case"), Rename: map[string]string{}}
	for key, value := range entries(below(dates, "rename")) {
		p.Model.Naming.Rename[key.Value] = resolved(value).Value
	}
	p.Model.Joins = r.joins(below(node, "joins"))
	r.checkColumns(dates)
}

// checkColumns holds the names of attributes against the catalogue that the
// plan's calendars give.
func (r *reader) checkColumns(node *yaml.Node) {
	if len(r.faults) > 0 {
		return
	}
	catalogue, err := r.plan.Catalogue()
	if err != nil {
		r.add(node, "", "%v", err)
		return
	}
	say := func(at *yaml.Node, err error) {
		var unknown *dimension.UnknownName
		remedy := ""
		if errors.As(err, &unknown) {
			remedy = "roundyear columns lists them"
			if near := nearest.Name(unknown.Name, unknown.Known); near != "" {
				remedy = fmt.Sprintf("Did you mean %s?", near)
			}
		}
		r.add(at, remedy, "%v", err)
	}
	for _, item := range items(below(node, "columns")) {
		if _, err := catalogue.Select([]string{resolved(item).Value}); err != nil {
			say(item, err)
		}
	}
	for key := range entries(below(node, "rename")) {
		if _, err := catalogue.Select([]string{key.Value}); err != nil {
			say(key, err)
		}
	}
	if len(r.faults) > 0 || node == nil {
		return
	}
	attributes, err := catalogue.Select(r.plan.Model.Columns)
	if err != nil {
		return
	}
	if _, err := r.plan.Model.Naming.Columns(attributes); err != nil {
		at := below(node, "rename")
		if at == nil {
			at = node
		}
		r.add(at, "", "%v", err)
	}
}

// Set returns the calendars of the plan, side by side.
func (p *Plan) Set() (*calendar.Set, error) {
	fiscal := p.Fiscal
	if len(fiscal) == 0 {
		plain, err := p.PlainFiscal()
		if err != nil {
			return nil, err
		}
		fiscal = []calendar.Calendar{plain}
	}
	return calendar.NewSet(p.Weeks, fiscal...)
}

// Catalogue returns the attributes that the plan gives a day. Its days off are
// none, since files of them are not read here: it tells which attributes there
// are and not what they hold.
func (p *Plan) Catalogue() (*dimension.Catalogue, error) {
	set, err := p.Set()
	if err != nil {
		return nil, err
	}
	settings := dimension.Settings{Calendars: set, Weekend: p.WeekendOf(""), Languages: p.Names, Labels: p.Labels}
	for _, source := range p.DaysOff {
		if !slices.ContainsFunc(settings.DaysOff, func(d dimension.DaysOff) bool { return d.Prefix == source.Prefix }) {
			settings.DaysOff = append(settings.DaysOff, dimension.DaysOff{Prefix: source.Prefix, Set: daysoff.NewSet(nil, p.WeekendOf(source.Prefix))})
		}
	}
	slices.SortStableFunc(settings.DaysOff, func(a, b dimension.DaysOff) int {
		if (a.Prefix == "") != (b.Prefix == "") {
			return strings.Compare(a.Prefix, b.Prefix)
		}
		return 0
	})
	return dimension.NewCatalogue(settings)
}
