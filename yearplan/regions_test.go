package yearplan

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/daysoff"
)

// The days on which days off are taken, as the governments publish them for the
// year.
var published = map[string]string{
	"IE 2022":     "01-01 03-17 03-18 04-18 05-02 06-06 08-01 10-31 12-25 12-26",
	"IE 2023":     "01-01 02-06 03-17 04-10 05-01 06-05 08-07 10-30 12-25 12-26",
	"IE 2024":     "01-01 02-05 03-17 04-01 05-06 06-03 08-05 10-28 12-25 12-26",
	"GB-ENG 2020": "01-01 04-10 04-13 05-08 05-25 08-31 12-25 12-28",
	"GB-ENG 2021": "01-01 04-02 04-05 05-03 05-31 08-30 12-27 12-28",
	"GB-ENG 2022": "01-03 04-15 04-18 05-02 06-02 06-03 08-29 09-19 12-26 12-27",
	"GB-WLS 2023": "01-02 04-07 04-10 05-01 05-08 05-29 08-28 12-25 12-26",
	"GB-SCT 2021": "01-01 01-04 04-02 05-03 05-31 08-02 11-30 12-27 12-28",
	"GB-SCT 2022": "01-03 01-04 04-15 05-02 06-02 06-03 08-01 09-19 11-30 12-26 12-27",
	"GB-SCT 2023": "01-02 01-03 04-07 05-01 05-08 05-29 08-07 11-30 12-25 12-26",
	"GB-NIR 2022": "01-03 03-17 04-15 04-18 05-02 06-02 06-03 07-12 08-29 09-19 12-26 12-27",
	"GB-NIR 2023": "01-02 03-17 04-07 04-10 05-01 05-08 05-29 07-12 08-28 12-25 12-26",
	"GB-NIR 2024": "01-01 03-18 03-29 04-01 05-06 05-27 07-12 08-26 12-25 12-26",
	"NL 2006":     "01-01 04-16 04-17 04-29 05-25 06-04 06-05 12-25 12-26",
	"NL 2024":     "01-01 03-31 04-01 04-27 05-09 05-19 05-20 12-25 12-26",
	"NL 2025":     "01-01 04-20 04-21 04-26 05-05 05-29 06-08 06-09 12-25 12-26",
	"BE 2023":     "01-01 04-10 05-01 05-18 05-29 07-21 08-15 11-01 11-11 12-25",
	"BE 2024":     "01-01 04-01 05-01 05-09 05-20 07-21 08-15 11-01 11-11 12-25",
	"BE 2025":     "01-01 04-21 05-01 05-29 06-09 07-21 08-15 11-01 11-11 12-25",
	"LU 2018":     "01-01 04-02 05-01 05-10 05-21 06-23 08-15 11-01 12-25 12-26",
	"LU 2019":     "01-01 04-22 05-01 05-09 05-30 06-10 06-23 08-15 11-01 12-25 12-26",
	"LU 2024":     "01-01 04-01 05-01 05-09 05-20 06-23 08-15 11-01 12-25 12-26",
	"FR 2008":     "01-01 03-24 05-01 05-08 05-12 07-14 08-15 11-01 11-11 12-25",
	"FR 2023":     "01-01 04-10 05-01 05-08 05-18 05-29 07-14 08-15 11-01 11-11 12-25",
	"FR-67 2024":  "01-01 03-29 04-01 05-01 05-08 05-09 05-20 07-14 08-15 11-01 11-11 12-25 12-26",
	"DE-BY 2024":  "01-01 01-06 03-29 04-01 05-01 05-09 05-20 05-30 10-03 11-01 12-25 12-26",
	"DE-BE 2020":  "01-01 03-08 04-10 04-13 05-01 05-08 05-21 06-01 10-03 12-25 12-26",
	"DE-NI 2016":  "01-01 03-25 03-28 05-01 05-05 05-16 10-03 12-25 12-26",
	"DE-NI 2018":  "01-01 03-30 04-02 05-01 05-10 05-21 10-03 10-31 12-25 12-26",
	"DE-NW 2017":  "01-01 04-14 04-17 05-01 05-25 06-05 06-15 10-03 10-31 11-01 12-25 12-26",
	"DE-SN 2024":  "01-01 03-29 04-01 05-01 05-09 05-20 10-03 10-31 11-20 12-25 12-26",
	"DE-BB 2023":  "01-01 04-07 04-09 04-10 05-01 05-18 05-28 05-29 10-03 10-31 12-25 12-26",
	"DE-TH 2019":  "01-01 04-19 04-22 05-01 05-30 06-10 09-20 10-03 10-31 12-25 12-26",
	"AT 2023":     "01-01 01-06 04-10 05-01 05-18 05-29 06-08 08-15 10-26 11-01 12-08 12-25 12-26",
	"AT 2024":     "01-01 01-06 04-01 05-01 05-09 05-20 05-30 08-15 10-26 11-01 12-08 12-25 12-26",
	"AT 2025":     "01-01 01-06 04-21 05-01 05-29 06-09 06-19 08-15 10-26 11-01 12-08 12-25 12-26",
	"DK 2022":     "01-01 04-14 04-15 04-17 04-18 05-13 05-26 06-05 06-06 12-25 12-26",
	"DK 2023":     "01-01 04-06 04-07 04-09 04-10 05-05 05-18 05-28 05-29 12-25 12-26",
	"DK 2024":     "01-01 03-28 03-29 03-31 04-01 05-09 05-19 05-20 12-25 12-26",
	"NO 2018":     "01-01 03-29 03-30 04-01 04-02 05-01 05-10 05-17 05-20 05-21 12-25 12-26",
	"NO 2023":     "01-01 04-06 04-07 04-09 04-10 05-01 05-17 05-18 05-28 05-29 12-25 12-26",
	"NO 2024":     "01-01 03-28 03-29 03-31 04-01 05-01 05-09 05-17 05-19 05-20 12-25 12-26",
	"SE 2004":     "01-01 01-06 04-09 04-11 04-12 05-01 05-20 05-30 05-31 06-26 11-06 12-25 12-26",
	"SE 2005":     "01-01 01-06 03-25 03-27 03-28 05-01 05-05 05-15 06-06 06-25 11-05 12-25 12-26",
	"SE 2024":     "01-01 01-06 03-29 03-31 04-01 05-01 05-09 05-19 06-06 06-22 11-02 12-25 12-26",
	"FI 2020":     "01-01 01-06 04-10 04-12 04-13 05-01 05-21 05-31 06-20 10-31 12-06 12-25 12-26",
	"FI 2023":     "01-01 01-06 04-07 04-09 04-10 05-01 05-18 05-28 06-24 11-04 12-06 12-25 12-26",
	"FI 2024":     "01-01 01-06 03-29 03-31 04-01 05-01 05-09 05-19 06-22 11-02 12-06 12-25 12-26",
	"IT 2011":     "01-01 01-06 03-17 04-24 04-25 05-01 06-02 08-15 11-01 12-08 12-25 12-26",
	"IT 2023":     "01-01 01-06 04-09 04-10 04-25 05-01 06-02 08-15 11-01 12-08 12-25 12-26",
	"IT 2024":     "01-01 01-06 03-31 04-01 04-25 05-01 06-02 08-15 11-01 12-08 12-25 12-26",
	"PT 2014":     "01-01 04-18 04-20 04-25 05-01 06-10 08-15 12-08 12-25",
	"PT 2016":     "01-01 03-25 03-27 04-25 05-01 05-26 06-10 08-15 10-05 11-01 12-01 12-08 12-25",
	"PT 2024":     "01-01 03-29 03-31 04-25 05-01 05-30 06-10 08-15 10-05 11-01 12-01 12-08 12-25",
	"PL 2010":     "01-01 04-04 04-05 05-01 05-03 05-23 06-03 08-15 11-01 11-11 12-25 12-26",
	"PL 2018":     "01-01 01-06 04-01 04-02 05-01 05-03 05-20 05-31 08-15 11-01 11-11 11-12 12-25 12-26",
	"PL 2025":     "01-01 01-06 04-20 04-21 05-01 05-03 06-08 06-19 08-15 11-01 11-11 12-24 12-25 12-26",
	"CZ 2015":     "01-01 04-06 05-01 05-08 07-05 07-06 09-28 10-28 11-17 12-24 12-25 12-26",
	"CZ 2016":     "01-01 03-25 03-28 05-01 05-08 07-05 07-06 09-28 10-28 11-17 12-24 12-25 12-26",
	"CZ 2024":     "01-01 03-29 04-01 05-01 05-08 07-05 07-06 09-28 10-28 11-17 12-24 12-25 12-26",
	"EE 2020":     "01-01 02-24 04-10 04-12 05-01 05-31 06-23 06-24 08-20 12-24 12-25 12-26",
	"EE 2023":     "01-01 02-24 04-07 04-09 05-01 05-28 06-23 06-24 08-20 12-24 12-25 12-26",
	"EE 2024":     "01-01 02-24 03-29 03-31 05-01 05-19 06-23 06-24 08-20 12-24 12-25 12-26",
	"SI 2012":     "01-01 01-02 02-08 04-08 04-09 04-27 05-01 05-02 05-27 06-25 08-15 10-31 11-01 12-25 12-26",
	"SI 2013":     "01-01 02-08 03-31 04-01 04-27 05-01 05-02 05-19 06-25 08-15 10-31 11-01 12-25 12-26",
	"SI 2023":     "01-01 01-02 02-08 04-09 04-10 04-27 05-01 05-02 05-28 06-25 08-14 08-15 10-31 11-01 12-25 12-26",
	"HR 2019":     "01-01 01-06 04-21 04-22 05-01 06-20 06-22 06-25 08-05 08-15 10-08 11-01 12-25 12-26",
	"HR 2020":     "01-01 01-06 04-12 04-13 05-01 05-30 06-11 06-22 08-05 08-15 11-01 11-18 12-25 12-26",
	"HR 2024":     "01-01 01-06 03-31 04-01 05-01 05-30 06-22 08-05 08-15 11-01 11-18 12-25 12-26",
	"IS 2020":     "01-01 04-09 04-10 04-12 04-13 04-23 05-01 05-21 05-31 06-01 06-17 08-03 12-25 12-26",
	"IS 2023":     "01-01 04-06 04-07 04-09 04-10 04-20 05-01 05-18 05-28 05-29 06-17 08-07 12-25 12-26",
	"IS 2024":     "01-01 03-28 03-29 03-31 04-01 04-25 05-01 05-09 05-19 05-20 06-17 08-05 12-25 12-26",
	"MT 2023":     "01-01 02-10 03-19 03-31 04-07 05-01 06-07 06-29 08-15 09-08 09-21 12-08 12-13 12-25",
	"MT 2024":     "01-01 02-10 03-19 03-29 03-31 05-01 06-07 06-29 08-15 09-08 09-21 12-08 12-13 12-25",
	"MT 2025":     "01-01 02-10 03-19 03-31 04-18 05-01 06-07 06-29 08-15 09-08 09-21 12-08 12-13 12-25",
	"NZ 2010":     "01-01 01-04 02-06 04-02 04-05 04-25 06-07 10-25 12-27 12-28",
	"NZ 2015":     "01-01 01-02 02-06 04-03 04-06 04-27 06-01 10-26 12-25 12-28",
	"NZ 2022":     "01-03 01-04 02-07 04-15 04-18 04-25 06-06 06-24 09-26 10-24 12-26 12-27",
	"NZ 2023":     "01-02 01-03 02-06 04-07 04-10 04-25 06-05 07-14 10-23 12-25 12-26",
	"JP 2006":     "01-02 01-09 02-11 03-21 04-29 05-03 05-04 05-05 07-17 09-18 09-23 10-09 11-03 11-23 12-23",
	"JP 2009":     "01-01 01-12 02-11 03-20 04-29 05-04 05-05 05-06 07-20 09-21 09-22 09-23 10-12 11-03 11-23 12-23",
	"JP 2019":     "01-01 01-14 02-11 03-21 04-29 04-30 05-01 05-02 05-03 05-04 05-06 07-15 08-12 09-16 09-23 10-14 10-22 11-04 11-23",
	"JP 2020":     "01-01 01-13 02-11 02-24 03-20 04-29 05-04 05-05 05-06 07-23 07-24 08-10 09-21 09-22 11-03 11-23",
	"JP 2021":     "01-01 01-11 02-11 02-23 03-20 04-29 05-03 05-04 05-05 07-22 07-23 08-09 09-20 09-23 11-03 11-23",
	"JP 2026":     "01-01 01-12 02-11 02-23 03-20 04-29 05-04 05-05 05-06 07-20 08-11 09-21 09-22 09-23 10-12 11-03 11-23",
	"US 2020":     "01-01 01-20 02-17 05-25 07-03 09-07 10-12 11-11 11-26 12-25",
	"US 2021":     "01-01 01-18 02-15 05-31 06-18 07-05 09-06 10-11 11-11 11-25 12-24 12-31",
	"US 2023":     "01-02 01-16 02-20 05-29 06-19 07-04 09-04 10-09 11-10 11-23 12-25",
}

func TestRegionsAsPublished(t *testing.T) {
	tested := map[string]int{}
	for name, want := range published {
		code, yearText, _ := strings.Cut(name, " ")
		region, err := RegionOf(code)
		require.NoError(t, err)
		first, err := civil.Parse(yearText + "-01-01")
		require.NoError(t, err)
		set := daysoff.NewSet(region.Rules, region.Weekend)
		var taken []string
		for _, one := range set.Between(first, civil.FirstOfYear(first.Year()+1)-1) {
			if one.Rule.Kind.IsOff() && !one.Rule.Half && one.TakenOn.Year() == first.Year() {
				taken = append(taken, one.TakenOn.String()[5:])
			}
		}
		slices.Sort(taken)
		assert.Equal(t, want, strings.Join(slices.Compact(taken), " "), name)
		tested[code[:2]]++
		assert.GreaterOrEqual(t, first.Year(), region.SureFrom, name)
		assert.LessOrEqual(t, first.Year(), region.SureTo, name)
	}
	for _, code := range Regions() {
		assert.GreaterOrEqual(t, tested[code], 3, "%s is held against three years", code)
	}
}

func TestEveryRegionIsWhole(t *testing.T) {
	for _, code := range Regions() {
		region := readRegion(code)
		assert.Equal(t, code, region.Code)
		assert.NotEmpty(t, region.Name)
		assert.NotEmpty(t, region.Weekend)
		assert.Less(t, region.SureFrom, region.SureTo)
		for _, rule := range region.Rules {
			assert.NotEmpty(t, rule.Source, "%s %s", code, rule.Name)
			assert.True(t, rule.Occurs(region.SureFrom, region.SureTo), "%s %s never falls in the sure years", code, rule.Name)
			for _, part := range rule.Scope {
				assert.Contains(t, region.Subdivisions, part, "%s %s", code, rule.Name)
			}
		}
		for _, part := range region.Subdivisions {
			_, err := RegionOf(part)
			assert.NoError(t, err)
		}
	}
	for code, fault := range map[string]string{
		"XX":     `there are no days off of the region "XX"; there are AT, BE,`,
		"DE-BX":  `there are no days off of the region "DE-BX". Did you mean DE-B`,
		"NL-NH":  "the days off of NL are the same in all parts of it: say NL",
		"GB-SCO": `there are no days off of the region "GB-SCO". Did you mean GB-SCT?`,
	} {
		_, err := RegionOf(code)
		assert.ErrorContains(t, err, fault)
	}
}

func TestDaysOffOfThePlan(t *testing.T) {
	p, err := Read("p", []byte(`roundyear: 1
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
	p, err = Read("p", []byte("roundyear: 1\ndays_off: [{name: Pesach, when: {calendar: hebrew, month: 7, day: 15}}, {name: Adar, when: {calendar: hebrew, month: 5L, day: 1}}]\n"))
	require.NoError(t, err)
	assert.Equal(t, "2026-04-02", p.DaysOff[0].Rule.When.In(2026)[0].String())
	assert.Equal(t, "day 1 of month 5L in the calendar hebrew", p.DaysOff[1].Rule.Why())
	p, err = Read("p", []byte("roundyear: 1\ndays_off: [{name: A, when: {rrule: 'FREQ=YEARLY;BYMONTH=6;BYDAY=1MO'}, since: 2025}]\n"))
	require.NoError(t, err)
	assert.Equal(t, "2026-06-01", p.DaysOff[0].Rule.When.In(2026)[0].String())
	assert.Equal(t, "the rule FREQ=YEARLY;BYMONTH=6;BYDAY=1MO, since 2025-01-01", p.DaysOff[0].Rule.Why())
	for plan, fault := range map[string]string{
		"days_off: [{name: A, when: {season: summer}}]":                                           `when.season is march_equinox, june_solstice, september_equinox or december_solstice, not "summer"`,
		"days_off: [{name: A, when: {season: june_solstice, zone: Mars/Base}}]":                   `A: there is no zone "Mars/Base"`,
		`days_off: [{name: A, when: {rrule: "FREQ=SOMETIMES"}}]`:                                  `A: "FREQ=SOMETIMES" is no recurrence rule of RFC 5545`,
		`days_off: [{name: A, when: {rrule: "FREQ=HOURLY"}}]`:                                     `"FREQ=HOURLY" recurs within a day`,
		`days_off: [{name: A, when: {rrule: "FREQ=DAILY"}}]`:                                      `"FREQ=DAILY" gives more than 100000 days off`,
		"days_off: [{name: A, when: {easter: 1}, observe: nearest, move: {from: sunday, by: 1}}]": "A has both move and observe: nearest. Keep one of them",
		"days_off: [{name: A, when: {calendar: mayan, month: 1, day: 1}}]":                        `when.calendar is islamic-civil, coptic, ethiopic, persian, hebrew, islamic-umalqura, chinese, dangi or vietnamese, not "mayan"`,
		"days_off: [{name: A, when: {calendar: hebrew, month: april, day: 1}}]":                   "A: a date of another calendar has a month by its number and a day",
		"days_off: [{name: A, when: {calendar: coptic, month: 13, day: 7}}]":                      "A never falls: day 7 of month 13 in the calendar coptic",
		"days_off: [{name: A, when: {month: 13, day: 1}}]":                                        "it is not clear when A falls",
		"days_off: [{region: XY}]":                                                                `p, line 2, column 21: there are no days off of the region "XY"`,
		"days_off: [{name: A}]":                                                                   "p, line 2, column 12: A does not say when it falls. Say when: {month: june, day: 24}",
		"days_off: [{name: A, when: {month: june, day: 31}}]":                                     "p, line 2, column 28: A never falls: 31 June",
		"days_off: [{name: A, when: {weekday: monday}}]":                                          "p, line 2, column 28: it is not clear when A falls",
		"days_off: [{name: A, when: {easter: 1}, every: 2}]":                                      "p, line 2, column 48: A comes every 2 years, but not from which year on",
		"days_off: [{name: A, when: {easter: 1}, since: 2020, until: 2019}]":                      "A ends on 2019-12-31, before it begins on 2020-01-01, and so never falls",
		"days_off: [{name: A, when: {easter: 1}}, {name: A, when: {easter: 2}}]":                  `two rules of days off are named "A". Give each a name of its own`,
		"days_off: [{region: IE, file: a.ics}]":                                                   "a source of days off is a region or a file, not both",
		"days_off: [{region: IE, prefix: My Set}]":                                                "a prefix goes before columns",
		"days_off: [{name: A, when: {easter: 1}, kind: holy}]":                                    `days_off.kind is statutory, bank, elective, marked, closure or worked, not "holy"`,
	} {
		_, err := Read("p", []byte("roundyear: 1\n"+plan+"\n"))
		assert.ErrorContains(t, err, fault)
	}
}
