package regions_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/daysoff/regions"
)

// daysOffOf returns the days off of "IE 2024" or "GB-SCT 2022": the region, its
// set, and the year's first and last day.
func daysOffOf(t *testing.T, name string) (region *regions.Region, set *daysoff.Set, first, last civil.Day) {
	t.Helper()
	code, yearText, _ := strings.Cut(name, " ")
	region, err := regions.Of(code)
	require.NoError(t, err)
	first, err = civil.Parse(yearText + "-01-01")
	require.NoError(t, err)
	return region, daysoff.NewSet(region.Rules, region.Weekend), first, civil.FirstOfYear(first.Year()+1) - 1
}

// whole returns a country.
func whole(t *testing.T, code string) *regions.Region {
	t.Helper()
	region, err := regions.Of(code)
	require.NoError(t, err)
	return region
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
	for _, code := range regions.Codes() {
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
	for _, code := range regions.Codes() {
		for _, part := range append(whole(t, code).Subdivisions, code) {
			region, err := regions.Of(part)
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
	for _, code := range regions.Codes() {
		region := whole(t, code)
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
			_, err := regions.Of(part)
			assert.NoError(t, err)
		}
	}
	for code, fault := range map[string]string{
		"XX":     `unknown region "XX"; there are AE, AR, AT,`,
		"UK":     `unknown region "UK". Did you mean GB?`,
		"Irland": `unknown region "Irland". Did you mean IE (Ireland)?`,
		"spain":  `unknown region "spain". Did you mean ES (Spain)?`,
		"DE-BX":  `unknown region "DE-BX". Did you mean DE-B`,
		"NL-NH":  "the days off of NL are only known for the whole country: use NL, and add to the plan those that NL-NH has of its own",
		"GB-SCO": `unknown region "GB-SCO". Did you mean GB-SCT?`,
	} {
		_, err := regions.Of(code)
		assert.ErrorContains(t, err, fault)
	}
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
		region, err := regions.Of(c.region)
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
		before, err := regions.Of(code)
		require.NoError(t, err)
		want, err := regions.Of(code)
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
		after, err := regions.Of(code)
		require.NoError(t, err)
		assert.Equal(t, want, after)
	}
}
