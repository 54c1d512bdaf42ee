package yearplan

import (
	"regexp"
	"slices"
	"strings"

	"go.yaml.in/yaml/v4"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/dimension"
	"roundyear/fault"
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
		problem.Line = integerOf(found[1])
		problem.Char = integerOf(found[2])
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
			p.Weeks.MinDays = integerOf(days)
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
	r.plan.Hours = r.readHours(below(root, "opening_hours"))
	r.readFacts(below(root, "facts"))
	r.readSites(below(root, "sites"))
	r.readDaysOff(below(root, "days_off"))
	r.readRange(below(root, "range"))
	r.readModel(below(root, "model"))
	r.readPublish(below(root, "publish"))
	r.readResults(below(root, "results"))
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
