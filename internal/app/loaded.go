package app

import (
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"roundyear/civil"
	"roundyear/facts"
	"roundyear/fault"
	"roundyear/nearest"
	"roundyear/rows"
	"roundyear/yearplan"
)

// LoadedOf returns what the plan says of up to which day the facts of some inputs are complete.
func (y *Year) LoadedOf(inputs []string) []string {
	for i := range y.Plan.Facts {
		planned := &y.Plan.Facts[i]
		if y.holdsAll(planned, inputs) {
			return planned.LoadedThrough
		}
	}
	return nil
}

// holdsAll tells whether inputs are all files of some facts, or what normalise writes of them.
func (y *Year) holdsAll(planned *yearplan.Facts, inputs []string) bool {
	written := *planned
	written.Files = []string{planned.Out}
	isOut := planned.Out != "" && !slices.ContainsFunc(inputs, func(input string) bool { return !y.Holds(&written, input) })
	return isOut || !slices.ContainsFunc(inputs, func(input string) bool { return !y.Holds(planned, input) })
}

// EachGroup asks for the last day of each group by its own rows, in place of a day up to which facts are complete.
const EachGroup = "each"

// Loaded reads days up to which facts are complete, each alone or as SOURCE=DAY, where a source is a file or a value of a group.
func Loaded(texts []string, source *rows.Source) (*facts.Loaded, error) {
	if len(texts) == 0 {
		return nil, nil
	}
	loaded := &facts.Loaded{Of: map[string]civil.Day{}}
	for _, text := range texts {
		if text == EachGroup && len(texts) > 1 {
			return nil, fmt.Errorf("%s stands alone: it takes the last day of each group from its rows", EachGroup)
		}
		if loaded.IsEach = text == EachGroup; loaded.IsEach {
			continue
		}
		name, dayText := "", text
		if at := strings.LastIndexByte(text, '='); at >= 0 {
			name, dayText = text[:at], text[at+1:]
		}
		day, err := civil.Parse(dayText)
		if err != nil {
			return nil, fmt.Errorf("%w; write a date, SOURCE=DATE, or %s", err, EachGroup)
		}
		if name == "" {
			if loaded.Through != nil {
				return nil, fmt.Errorf("%s and %s are two days for all", *loaded.Through, day)
			}
			loaded.Through = &day
			continue
		}
		isFile := false
		for i, part := range source.Parts {
			if part.Name != name && filepath.Clean(part.Name) != filepath.Clean(name) && filepath.Base(part.Name) != name {
				continue
			}
			if len(source.Parts) > facts.MaxSources {
				return nil, fmt.Errorf("%s is one of more than %d files; name the groups in place of the files", name, facts.MaxSources)
			}
			if loaded.OfSources == nil {
				loaded.OfSources = make([]*civil.Day, len(source.Parts))
			}
			loaded.OfSources[i], isFile = &day, true
		}
		if !isFile {
			loaded.Of[name] = day
		}
	}
	return loaded, nil
}

// errNoSource is a source of --loaded-through that there is not.
var errNoSource = errors.New("neither a file nor a value of a group")

// CheckLoaded returns an error for a source that is neither a file nor a group.
func (t *Tallied) CheckLoaded(loaded *facts.Loaded) error {
	if loaded == nil || len(loaded.Of) == 0 {
		return nil
	}
	var values []string
	for _, column := range t.GroupValues() {
		values = append(values, column...)
	}
	for name := range loaded.Of {
		if slices.Contains(values, name) {
			continue
		}
		if near := nearest.Name(name, values); near != "" {
			return fmt.Errorf("%s is %w. Did you mean %s?", fault.Quoted(name), errNoSource, fault.Quoted(near))
		}
		return fmt.Errorf("%s is %w", fault.Quoted(name), errNoSource)
	}
	return nil
}
