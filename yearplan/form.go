package yearplan

import "roundyear/calendar"

// Version is the version of the plan's format.
const Version = 1

// form is what a plan may hold.
var form = shape{doc: "How a business's year runs, and where its facts and tables are.", fields: []field{
	{"roundyear", shape{doc: "Version of this format.", scalar: number(Version, Version)}},
	{"range", shape{doc: "Which days the dimension has.", fields: []field{
		{"cover", shape{doc: "Date columns of facts, as FACTS.COLUMN: from the earliest to the latest of them all.", list: &shape{scalar: anyText}, single: true}},
		{"from", shape{doc: "First day, where no facts are covered.", scalar: date}},
		{"to", shape{doc: "Last day, where no facts are covered.", scalar: date}},
		{"whole", shape{doc: "Whether every calendar and fiscal year that holds a covered day is whole.", scalar: oneOf("years", "exact")}},
		{"pad_years", shape{doc: "So many years more at both sides.", scalar: number(0, 9999)}},
	}}},
	{"language", shape{doc: "Languages of names: the first for the plain columns, the others for columns beside them.", list: &shape{scalar: languageTag}, single: true}},
	{"weeks", shape{doc: "The business's weeks.", fields: []field{
		{"first_day", shape{doc: "Weekday on which weeks begin.", scalar: weekdayName}},
		{"min_days", shape{doc: "Days of the new year that its first week has at least.", scalar: number(1, 7)}},
	}}},
	{"weekend", shape{doc: "Weekdays that are no workdays.", list: &shape{scalar: weekdayName}, single: true, nothing: true}},
	{"calendars", shape{doc: "Fiscal calendars by name; the name goes before their columns and grains.", entries: &calendarForm, nothing: true}},
	{"labels", shape{doc: "Columns of labels by a pattern of Unicode LDML, such as date_label: dd/MM/yyyy.", entries: &shape{scalar: labelPattern}}},
	{"special_rows", shape{doc: "Rows of the dimension for facts without a day.", fields: []field{
		{"unknown", special("For facts without a date.")},
		{"not_yet", special("For facts of which the date is still to come.")},
		{"not_applicable", special("For facts to which the date does not apply.")},
	}}},
	{"clock", shape{doc: "The time-of-day dimension.", fields: []field{
		{"grain", shape{doc: "What a row stands for: seconds, minutes, or so many minutes, such as 15 minutes.", scalar: clockGrain}},
		{"parts", shape{doc: "Parts of the day by name, each with the time at which it begins.", entries: &shape{scalar: timeOfDay}}},
	}}},
	{"facts", shape{doc: "Facts by name.", entries: &factsForm, nothing: true}},
	{"model", shape{doc: "The tables that are made.", fields: []field{
		{"dimension", shape{doc: "The date dimension.", fields: []field{
			{"name", shape{doc: "Name of the table.", scalar: anyText}},
			{"columns", shape{doc: "Attributes and groups, in this order.", list: &shape{scalar: anyText}, single: true}},
			{"case", shape{doc: "How columns are named: month_name, monthName or Month Name.", scalar: oneOf("snake", "camel", "title")}},
			{"rename", shape{doc: "Names of single columns by their attributes.", entries: &shape{scalar: anyText}}},
			{"out", shape{doc: "Files to write.", list: &shape{scalar: anyText}, single: true}},
		}}},
		{"joins", shape{doc: "Date columns of facts that join to the dimension, as FACTS.COLUMN; the first of each facts is its main one.", list: &shape{scalar: anyText}, single: true}},
	}}},
}}

var labelFields = []struct {
	key  string
	unit calendar.Unit
}{
	{"year_label", calendar.Year}, {"half_label", calendar.Half}, {"third_label", calendar.Third}, {"trimester_label", calendar.Trimester},
	{"quarter_label", calendar.Quarter}, {"month_label", calendar.Month}, {"week_label", calendar.Week},
}

var groupFields = []struct {
	key  string
	unit calendar.Unit
}{{"quarters", calendar.Quarter}, {"trimesters", calendar.Trimester}, {"thirds", calendar.Third}, {"halves", calendar.Half}}

// calendarForm is one rule, or a list of rules of which each begins on a day.
var calendarForm = shape{list: &ruleForm, single: true}

var ruleForm = shape{doc: "How the years of a calendar run: months, weeks, or years declared by hand.", fields: append([]field{
	{"since", shape{doc: "Day from which the rule holds, where another holds before it.", scalar: date}},
	{"months", shape{doc: "A year of twelve months.", fields: append([]field{
		{"starts", shape{doc: "Month in which the year starts, or day of it: 6 april.", scalar: yearPart}},
		{"ends", shape{doc: "Month in which the year ends, or day of it: 5 april.", scalar: yearPart}},
	}, groupForms()...)}},
	{"weeks", shape{doc: "A year of 52 or 53 weeks.", fields: append([]field{
		{"ends_on", shape{doc: "Weekday on which the year ends.", scalar: weekdayName}},
		{"last_in", shape{doc: "Month whose last such weekday ends the year.", scalar: monthName}},
		{"nearest_to", shape{doc: "Date to which the weekday nearest ends the year: 31 january.", scalar: yearDay}},
		{"split", shape{doc: "Weeks of the periods, repeated until the year is full: 4-5-4, 13x4 or a list.", list: &shape{scalar: splitText}, single: true}},
		{"leap_week", shape{doc: "Period that gets the 53rd week.", scalar: lastOrNumber}},
	}, groupForms()...)}},
	{"years", shape{doc: "Years declared by hand.", list: &shape{fields: append([]field{
		{"year", shape{doc: "Number of the year.", scalar: number(1583, 9999)}},
		{"starts", shape{doc: "First days of its periods.", list: &shape{scalar: date}}},
		{"ends", shape{doc: "Its last day.", scalar: date}},
	}, groupForms()...)}}},
	{"named_by", shape{doc: "Calendar year that gives a fiscal year its number: the one it ends in, starts in, or has most of its days in.", scalar: oneOf("end", "start", "most")}},
}, labelForms()...)}

func groupForms() []field {
	var fields []field
	for _, group := range groupFields {
		fields = append(fields, field{group.key, shape{doc: "Number of the " + group.unit.String() + " that each period of the year belongs to.", list: &shape{scalar: number(1, 12)}}})
	}
	return fields
}

func labelForms() []field {
	var fields []field
	for _, label := range labelFields {
		fields = append(fields, field{label.key, shape{doc: "Label of a " + label.unit.String() + ", such as FY{yy} or P{period:02}.", scalar: anyText}})
	}
	return fields
}

func special(doc string) shape {
	return shape{doc: doc, nothing: true, fields: []field{
		{"key", shape{doc: "What stands in the keys.", scalar: number(-99999999, 9999999)}},
		{"label", shape{doc: "What stands in the texts.", scalar: anyText}},
		{"flags", shape{doc: "What flags are.", scalar: oneOf("false", "blank")}},
		{"numbers", shape{doc: "What whole numbers other than keys are.", scalar: oneOf("blank", "key")}},
	}}
}

var factsForm = shape{doc: "Facts and how their dates are read.", fields: []field{
	{"files", shape{doc: "Paths or patterns of paths of the files, from the plan's folder.", list: &shape{scalar: anyText}, single: true}},
	{"dates", shape{doc: "The date columns by name.", entries: &shape{nothing: true, fields: []field{
		{"pattern", shape{doc: "Form of the dates by Unicode LDML.", scalar: anyText}},
		{"order", shape{doc: "What comes first where the data leaves it open.", scalar: oneOf("day", "month", "year")}},
		{"language", shape{doc: "Language of the names of months.", scalar: anyText}},
		{"zone", shape{doc: "IANA zone in which times were written.", scalar: anyText}},
		{"to_zone", shape{doc: "IANA zone in which days are wanted; without it that of zone.", scalar: anyText}},
		{"day_starts", shape{doc: "Time at which the day of business starts.", scalar: timeOfDay}},
		{"parts", shape{doc: "Columns of the year, the month and the day, of a date that stands in three.", list: &shape{scalar: anyText}}},
		{"grain", shape{doc: "What a value stands for: a day, or a whole period from that day on.", scalar: oneOf("day", "week", "month", "quarter", "half", "year")}},
	}}}},
	{"out", shape{doc: "File that normalise writes them to; it is then what is covered, checked and joined.", scalar: anyText}},
	{"header", shape{doc: "Whether the files have a header; without a word they have one, unless it looks like data.", scalar: oneOf("true", "false")}},
	{"skip", shape{doc: "How many lines stand above the header.", scalar: number(0, 1000)}},
	{"order_per", shape{doc: "Column that tells systems apart which write dates in different orders.", scalar: anyText}},
}}
