package yearplan

import (
	"errors"
	"fmt"
	"regexp"
	"strings"

	"go.yaml.in/yaml/v4"

	"roundyear/dimension"
	"roundyear/language"
	"roundyear/nearest"
)

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
			row.Key = integerOf(key)
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
		count = integerOf(found[1])
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
