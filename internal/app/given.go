package app

import (
	"slices"
	"strings"
)

// Given are the names of the settings that a call says itself. They win over what the plan says, and that over what holds without a word,
// whatever their value is: one that is given as nothing is given.
type Given map[string]bool

// Texts returns what a call says by a setting, or else what the plan says.
func (g Given) Texts(name string, told, planned []string) []string {
	if g[name] {
		return told
	}
	return planned
}

// Text returns what a call says by a setting, or else what the plan says.
func (g Given) Text(name, told, planned string) string {
	if g[name] {
		return told
	}
	return planned
}

// Truth returns what a call says by a setting, or else what the plan says.
func (g Given) Truth(name string, told, planned bool) bool {
	if g[name] {
		return told
	}
	return planned
}

// Keyed returns what a call and the plan say of things by their names, as NAME=VALUE, each by the call if that names it too.
func Keyed(told, planned []string) []string {
	nameOf := func(text string) string {
		name, _, _ := strings.Cut(text, "=")
		return strings.ToLower(strings.TrimSpace(name))
	}
	merged := slices.DeleteFunc(slices.Clone(planned), func(text string) bool {
		return slices.ContainsFunc(told, func(other string) bool { return nameOf(other) == nameOf(text) })
	})
	return append(merged, told...)
}
