package yearplan_test

import (
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/daysoff"
	"roundyear/daysoff/regions"
	"roundyear/yearplan"
)

func TestDaysOffOfThePlan(t *testing.T) {
	p, err := yearplan.Read("p", []byte(`roundyear: 1
days_off:
  - region: IE
  - {region: de-by, prefix: by}
  - name: Stocktaking
    when: {month: january, day: 5}
    move: [{from: saturday, by: 2}, {from: sunday, by: 1}]
  - {name: Fair, kind: marked, when: [{date: 2026-05-02}, {weekday: friday, on_or_before: {month: june, day: 5}}], since: 2020, until: 2030}
  - {file: closures.ics}
`))
	require.NoError(t, err)
	require.Len(t, p.DaysOff, 5)
	assert.Equal(t, "DE-BY", p.DaysOff[1].Region.Code)
	assert.Equal(t, daysoff.Closure, p.DaysOff[2].Rule.Kind)
	assert.Equal(t, "5 January; on a Saturday it is taken 2 days later; on a Sunday it is taken 1 day later", p.DaysOff[2].Rule.Why())
	assert.Equal(t, "2026-05-02, and the Friday on or before 5 June, from 2020-01-01 to 2030-12-31", p.DaysOff[3].Rule.Why())
	assert.Equal(t, "closures.ics", p.DaysOff[4].File)
	p, err = yearplan.Read("p", []byte("roundyear: 1\ndays_off: [{name: Pesach, when: {calendar: hebrew, month: 7, day: 15}}, {name: Adar, when: {calendar: hebrew, month: 5L, day: 1}}]\n"))
	require.NoError(t, err)
	assert.Equal(t, "2026-04-02", p.DaysOff[0].Rule.When.In(2026)[0].String())
	assert.Equal(t, "day 1 of month 5L in the calendar hebrew", p.DaysOff[1].Rule.Why())
	p, err = yearplan.Read("p", []byte("roundyear: 1\ndays_off: [{name: A, when: {rrule: 'FREQ=YEARLY;BYMONTH=6;BYDAY=1MO'}, since: 2025}]\n"))
	require.NoError(t, err)
	assert.Equal(t, "2026-06-01", p.DaysOff[0].Rule.When.In(2026)[0].String())
	assert.Equal(t, "the rule FREQ=YEARLY;BYMONTH=6;BYDAY=1MO, since 2025-01-01", p.DaysOff[0].Rule.Why())
	for plan, fault := range map[string]string{
		"days_off: [{name: A, when: {season: summer}}]":                                           `when.season must be march_equinox, june_solstice, september_equinox or december_solstice, not "summer"`,
		"days_off: [{name: A, when: {season: june_solstice, zone: Mars/Base}}]":                   `A: unknown time zone "Mars/Base"`,
		`days_off: [{name: A, when: {rrule: "FREQ=SOMETIMES"}}]`:                                  `A: "FREQ=SOMETIMES" is not a recurrence rule of RFC 5545`,
		`days_off: [{name: A, when: {rrule: "FREQ=MONTHLY;BYDAY=10MO"}}]`:                         `A: "FREQ=MONTHLY;BYDAY=10MO" contains days that no month or year has`,
		`days_off: [{name: A, when: {rrule: "FREQ=HOURLY"}}]`:                                     `"FREQ=HOURLY" is not a recurrence rule of RFC 5545: it recurs within a day`,
		"days_off: [{name: A, when: {easter: 1}, observe: nearest, move: {from: sunday, by: 1}}]": "A has both move and observe: nearest. Remove one of them",
		"days_off: [{name: A, when: {calendar: mayan, month: 1, day: 1}}]":                        `when.calendar must be islamic-civil, coptic, ethiopic, persian, hebrew, islamic-umalqura, chinese, dangi or vietnamese, not "mayan"`,
		"days_off: [{name: A, when: {calendar: hebrew, month: april, day: 1}}]":                   "A: a date in another calendar needs the number of its month, and a day",
		"days_off: [{name: A, when: {calendar: coptic, month: 13, day: 7}}]":                      "A never occurs: day 7 of month 13 in the calendar coptic",
		"days_off: [{name: A, when: {month: 13, day: 1}}]":                                        "the date of A is unclear",
		"days_off: [{name: A, when: {easter: 1}, scope: [IE, Kelmor]}]\nsites: {Kelmoor: {}}":     `A refers to "Kelmor", which is neither a site of the plan nor a region. Did you mean Kelmoor?`,
		"days_off: [{region: XY}]":                                                                `p, line 2, column 21: unknown region "XY"`,
		"days_off: [{name: A}]":                                                                   "p, line 2, column 12: A has no date. Add when: {month: june, day: 24}",
		"days_off: [{name: A, when: {month: june, day: 31}}]":                                     "p, line 2, column 28: A never occurs: 31 June",
		"days_off: [{name: A, when: {weekday: monday}}]":                                          "p, line 2, column 28: the date of A is unclear",
		"days_off: [{name: A, when: {easter: 1}, every: 2}]":                                      "p, line 2, column 48: A recurs every 2 years, but its first year is missing",
		"days_off: [{name: A, when: {easter: 1}, since: 2020, until: 2019}]":                      "A ends on 2019-12-31, before it starts on 2020-01-01, so it never occurs",
		"days_off: [{name: A, when: {easter: 1}}, {name: A, when: {easter: 2}}]":                  `two rules for days off are named "A". Rename one of them`,
		"days_off: [{region: IE, kind: bank}]":                                                    "p, line 2, column 25: kind cannot be used with a region. Remove it, or add your own rule as another entry",
		"days_off: [{file: a.ics, when: {easter: 1}}]":                                            "when cannot be used with a file",
		"days_off: [{name: A, when: {easter: 1}, table: 2}]":                                      "table is for files of days off, not for rules. Remove it",
		"days_off: [{region: IE, file: a.ics}]":                                                   "an entry cannot be both a region and a file",
		"days_off: [{region: IE, prefix: My Set}]":                                                "a prefix becomes part of column names",
		"days_off: [{name: A, when: {easter: 1}, kind: holy}]":                                    `days_off.kind must be statutory, bank, elective, marked, closure or worked, not "holy"`,
	} {
		_, err := yearplan.Read("p", []byte("roundyear: 1\n"+plan+"\n"))
		assert.ErrorContains(t, err, fault)
	}
}

func TestScopesOfThePlansOwnRules(t *testing.T) {
	p, err := yearplan.Read("p", []byte(`roundyear: 1
days_off:
  - {region: de-by}
  - {region: NL, prefix: nl}
  - {name: Everywhere, when: {month: june, day: 1}}
  - {name: Bavaria, when: {month: june, day: 2}, scope: de-by}
  - {name: Germany, when: {month: june, day: 3}, scope: [DE]}
  - {name: Shop, when: {month: june, day: 4}, scope: [Kelmoor]}
  - {name: Dutch, when: {month: june, day: 5}, scope: [NL], prefix: nl}
sites:
  Kelmoor: {region: IE}
`))
	require.NoError(t, err)
	assert.Equal(t, []string{"DE-BY"}, p.RegionsOf(""))
	assert.Equal(t, []string{"NL"}, p.RegionsOf("nl"))
	holding := func(places ...string) []string {
		var names []string
		for _, source := range p.DaysOff {
			if source.Rule != nil && source.AppliesAt(places...) {
				names = append(names, source.Rule.Name)
			}
		}
		return names
	}
	assert.Equal(t, []string{"Everywhere", "Bavaria", "Germany"}, holding("DE-BY"))
	assert.Equal(t, []string{"Everywhere", "Germany"}, holding("DE-BE"))
	assert.Equal(t, []string{"Everywhere", "Shop"}, holding("Kelmoor", "IE"))
	assert.Equal(t, []string{"Everywhere", "Dutch"}, holding("NL"))
}

// The code of regions is what their files say.
func TestRegionsAreGeneratedFromTheirFiles(t *testing.T) {
	files, err := filepath.Glob("../daysoff/regions/*.yaml")
	require.NoError(t, err)
	assert.Len(t, files, len(regions.Codes()))
	for _, file := range files {
		content, err := os.ReadFile(file)
		require.NoError(t, err)
		want, err := yearplan.ReadRegion(filepath.Base(file), content)
		require.NoError(t, err)
		want.Rules = slices.DeleteFunc(want.Rules, func(rule *daysoff.Rule) bool { return !rule.AppliesIn(want.Code) })
		got, err := regions.Of(want.Code)
		require.NoError(t, err)
		assert.Equal(t, want, got, "%s has changed; run go generate ./daysoff/regions", file)
		for _, part := range want.Subdivisions {
			want, err := yearplan.ReadRegion(filepath.Base(file), content)
			require.NoError(t, err)
			got, err := regions.Of(part)
			require.NoError(t, err)
			want.Rules = slices.DeleteFunc(want.Rules, func(rule *daysoff.Rule) bool { return !rule.AppliesIn(part) })
			assert.Equal(t, want.Rules, got.Rules, part)
		}
	}
}
