package yearplan_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/yearplan"
)

// daysOffOf returns the days off of "IE 2024" or "GB-SCT 2022": the region, its
// set, and the year's first and last day.
func daysOffOf(t *testing.T, name string) (region *yearplan.Region, set *daysoff.Set, first, last civil.Day) {
	t.Helper()
	code, yearText, _ := strings.Cut(name, " ")
	region, err := yearplan.RegionOf(code)
	require.NoError(t, err)
	first, err = civil.Parse(yearText + "-01-01")
	require.NoError(t, err)
	return region, daysoff.NewSet(region.Rules, region.Weekend), first, civil.FirstOfYear(first.Year()+1) - 1
}

func TestRegionsAsPublished(t *testing.T) {
	tested := map[string]int{}
	for name, want := range published {
		region, set, first, last := daysOffOf(t, name)
		var taken []string
		for _, one := range set.Between(first, last) {
			if one.Rule.Kind.IsOff() && !one.Rule.Half && one.TakenOn.Year() == first.Year() {
				taken = append(taken, one.TakenOn.String()[5:])
			}
		}
		slices.Sort(taken)
		assert.Equal(t, want, strings.Join(slices.Compact(taken), " "), name)
		tested[name[:2]]++
		assert.GreaterOrEqual(t, first.Year(), region.VerifiedFrom, name)
		assert.LessOrEqual(t, first.Year(), region.VerifiedTo, name)
	}
	for _, code := range yearplan.Regions() {
		assert.GreaterOrEqual(t, tested[code], 3, "%s is held against three years", code)
	}
}

// Where weekend days are exchanged for weekdays, the holidays by law alone make
// the workdays fewer: eleven in China, thirteen since 2025; an exchange gives none
// away.
func TestWorkedWeekendsMakeUpForBridges(t *testing.T) {
	for name, holidays := range map[string]int{"CN 2021": 11, "CN 2022": 11, "CN 2023": 11, "CN 2024": 11, "CN 2025": 13, "CN 2026": 13,
		// In Hungary a holiday on a weekend is not made up for: these are counted from its list.
		"HU 2019": 11, "HU 2022": 6, "HU 2024": 11} {
		_, set, first, last := daysOffOf(t, name)
		weekdays, worked := 0, 0
		for day := first; day <= last; day++ {
			if !set.IsWeekend(day) {
				weekdays++
			}
			if set.IsWorkday(day) {
				worked++
			}
		}
		assert.Equal(t, weekdays-holidays, worked, name)
	}
}

// In the years for which a region is sure, what is moved lands on no other day
// off, what goes to a free day finds one, and only weekends are worked in
// exchange.
func TestDaysOffOfRegionsDoNotCollide(t *testing.T) {
	days := 0
	for _, code := range yearplan.Regions() {
		for _, part := range append(yearplan.ReadRegion(code).Subdivisions, code) {
			region, err := yearplan.RegionOf(part)
			require.NoError(t, err)
			set := daysoff.NewSet(region.Rules, region.Weekend)
			from, to := civil.FirstOfYear(region.VerifiedFrom), civil.FirstOfYear(region.VerifiedTo+1)-1
			for _, one := range set.Collisions(from, to) {
				if part == "US-HI" && one.Moved.Own == civil.MustOf(2005, 3, 26) {
					continue // by the law the prince's day and Good Friday fell together
				}
				t.Errorf("%s: %s of %s is moved onto %s on %s", part, one.Moved.Rule.Name, one.Moved.Own, one.Other.Rule.Name, one.Moved.TakenOn)
			}
			for _, one := range set.Between(from, to) {
				days++
				switch rule := one.Rule; {
				case rule.Kind == daysoff.Worked:
					assert.True(t, set.IsWeekend(one.TakenOn) && set.IsWorkday(one.TakenOn), "%s: %s on %s", part, rule.Name, one.TakenOn)
				case rule.Kind.IsOff() && !rule.Half:
					assert.False(t, set.IsWorkday(one.TakenOn), "%s: %s on %s", part, rule.Name, one.TakenOn)
					if rule.NextFree && one.IsMoved() {
						assert.False(t, set.IsWeekend(one.TakenOn), "%s: %s on %s", part, rule.Name, one.TakenOn)
						assert.Less(t, one.TakenOn-one.Own, civil.Day(8), "%s: %s of %s", part, rule.Name, one.Own)
					}
				}
				assert.NotContains(t, one.Rule.Why(), "%!")
			}
		}
	}
	assert.Greater(t, days, 20000)
}

func TestEveryRegionIsWhole(t *testing.T) {
	for _, code := range yearplan.Regions() {
		region := yearplan.ReadRegion(code)
		assert.Equal(t, code, region.Code)
		assert.NotEmpty(t, region.Name)
		assert.NotEmpty(t, region.Weekend)
		assert.Less(t, region.VerifiedFrom, region.VerifiedTo)
		for _, rule := range region.Rules {
			assert.NotEmpty(t, rule.Source, "%s %s", code, rule.Name)
			isPast := rule.Until != nil && rule.Until.Year() < region.VerifiedFrom
			assert.True(t, isPast || rule.Occurs(region.VerifiedFrom, region.VerifiedTo), "%s %s never falls in the sure years", code, rule.Name)
			for _, part := range rule.Scope {
				assert.Contains(t, append(region.Subdivisions, code), part, "%s %s", code, rule.Name)
			}
		}
		for _, part := range region.Subdivisions {
			_, err := yearplan.RegionOf(part)
			assert.NoError(t, err)
		}
	}
	for code, fault := range map[string]string{
		"XX":     `unknown region "XX"; there are AE, AR, AT,`,
		"UK":     `unknown region "UK". Did you mean GB?`,
		"Irland": `unknown region "Irland". Did you mean IE (Ireland)?`,
		"spain":  `unknown region "spain". Did you mean ES (Spain)?`,
		"DE-BX":  `unknown region "DE-BX". Did you mean DE-B`,
		"NL-NH":  "the days off of NL are the same in all its subdivisions: use NL",
		"GB-SCO": `unknown region "GB-SCO". Did you mean GB-SCT?`,
	} {
		_, err := yearplan.RegionOf(code)
		assert.ErrorContains(t, err, fault)
	}
}

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

// A holiday is not listed for years in which it did not exist yet.
func TestHolidaysBeginWhenTheyBegan(t *testing.T) {
	for _, c := range []struct {
		region, name string
		first        int
	}{
		{"HU", "Good Friday", 2017}, {"CA-ON", "Family Day", 2008}, {"CA-BC", "Family Day", 2013}, {"US", "Juneteenth", 2021}, {"IE", "Saint Brigid's Day", 2023},
		{"DE", "German Unity Day", 1990}, {"ZA", "Freedom Day", 1995}, {"MX", "Constitution Day", 2006}, {"PL", "Epiphany", 2011},
	} {
		region, err := yearplan.RegionOf(c.region)
		require.NoError(t, err)
		first := 0
		for _, one := range daysoff.NewSet(region.Rules, region.Weekend).Between(civil.FirstOfYear(1950), civil.FirstOfYear(2030)-1) {
			if one.Rule.Name == c.name && first == 0 {
				first = one.Own.Year()
			}
		}
		assert.Equal(t, c.first, first, "%s %s", c.region, c.name)
	}
}

// What a caller makes of the rules of a region is not what the next one gets.
func TestRegionsAreTheCallersOwn(t *testing.T) {
	for _, code := range []string{"DE-BY", "GB-SCT", "US"} {
		before, err := yearplan.RegionOf(code)
		require.NoError(t, err)
		want, err := yearplan.RegionOf(code)
		require.NoError(t, err)
		for _, rule := range before.Rules {
			rule.Name, rule.Kind = "changed", daysoff.Worked
			for i := range rule.Scope {
				rule.Scope[i] = "XX"
			}
			for i := range rule.Moves {
				rule.Moves[i].By = 99
			}
			for tag := range rule.Names {
				rule.Names[tag] = "changed"
			}
			if rule.Since != nil {
				*rule.Since = 0
			}
			rule.Except = append(rule.Except, 2026)
		}
		before.Weekend[0] = civil.Wednesday
		after, err := yearplan.RegionOf(code)
		require.NoError(t, err)
		assert.Equal(t, want, after)
	}
}
