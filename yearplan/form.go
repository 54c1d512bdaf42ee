package yearplan

import "roundyear/calendar"

// Version is the version of the plan's format.
const Version = 1

// form is what a plan may hold.
var form = shape{doc: "How the year of a business runs, and where its facts and tables are.", fields: []field{
	{"roundyear", shape{doc: "Version of this format.", scalar: number(Version, Version)}},
	{"range", shape{doc: "Days of the dimension.", fields: []field{
		{"cover", shape{doc: "Date columns of facts, as FACTS.COLUMN; the range goes from the earliest to the latest date.", list: &shape{scalar: anyText}, single: true}},
		{"from", shape{doc: "First day, or lower limit if cover is set.", scalar: date}},
		{"to", shape{doc: "Last day, or upper limit if cover is set.", scalar: date}},
		{"whole", shape{doc: "Whether the range is widened to whole calendar and fiscal years.", scalar: oneOf("years", "exact")}},
		{"pad_years", shape{doc: "Years to add at both ends.", scalar: number(0, 9999)}},
	}}},
	{"language", shape{doc: "Languages of names: the first for the main columns, the others for additional columns.", list: &shape{scalar: languageTag}, single: true}},
	{"weeks", shape{doc: "Weeks of the business.", fields: []field{
		{"first_day", shape{doc: "First weekday of the week.", scalar: weekdayName}},
		{"min_days", shape{doc: "Minimum days of the new year in week 1.", scalar: number(1, 7)}},
	}}},
	{"weekend", shape{doc: "Weekdays of the weekend.", list: &shape{scalar: weekdayName}, single: true, nothing: true}},
	{"calendars", shape{doc: "Fiscal calendars by name; their columns and grains start with the name.", entries: &calendarForm, nothing: true}},
	{"labels", shape{doc: "Label columns by a pattern in Unicode LDML, such as date_label: dd/MM/yyyy.", entries: &shape{scalar: labelPattern}}},
	{"special_rows", shape{doc: "Rows of the dimension for facts without a date.", fields: []field{
		{"unknown", special("For facts without a date.")},
		{"not_yet", special("For facts whose date is not known yet.")},
		{"not_applicable", special("For facts to which the date does not apply.")},
	}}},
	{"clock", shape{doc: "The time-of-day dimension.", fields: []field{
		{"grain", shape{doc: "Step of a row, such as 15 minutes.", scalar: clockGrain}},
		{"parts", shape{doc: "Parts of the day by name, each with its start time.", entries: &shape{scalar: timeOfDay}}},
	}}},
	{"facts", shape{doc: "Facts by name.", entries: &factsForm, nothing: true}},
	{"model", shape{doc: "The tables to build.", fields: []field{
		{"dimension", shape{doc: "The date dimension.", fields: []field{
			{"name", shape{doc: "Name of the table.", scalar: anyText}},
			{"columns", shape{doc: "Attributes and groups, in this order.", list: &shape{scalar: anyText}, single: true}},
			{"case", shape{doc: "Naming of columns: month_name, monthName or Month Name.", scalar: oneOf("snake", "camel", "title")}},
			{"rename", shape{doc: "Names of individual columns, by attribute.", entries: &shape{scalar: anyText}}},
			{"out", shape{doc: "Files to write.", list: &shape{scalar: anyText}, single: true}},
		}}},
		{"joins", shape{doc: "Date columns of facts that join to the dimension, as FACTS.COLUMN; the main date of each comes first.", list: &shape{scalar: anyText}, single: true}},
	}}},
	{"publish", shape{doc: "Where the model is published, and what belongs to it.", fields: []field{
		{"out", shape{doc: "Databases and scripts (default: model.db next to the plan).", list: &shape{scalar: anyText}, single: true}},
		{"dialect", shape{doc: "SQL of scripts.", scalar: oneOf("postgres", "mysql", "sqlite", "sqlserver", "oracle")}},
		{"grains", shape{doc: "Tables of periods, such as month or fiscal.quarter.", list: &shape{scalar: anyText}, single: true}},
		{"facts", shape{doc: "Facts whose files are loaded (default: those of model.joins).", list: &shape{scalar: anyText}, single: true}},
		{"join", shape{doc: "Tables that the database has already, as TABLE.COLUMN with the column of the date or key.", list: &shape{scalar: anyText}, single: true}},
		{"indexes", shape{doc: "Whether the date columns of facts get an index.", scalar: oneOf("true", "false")}},
		{"foreign_keys", shape{doc: "Whether the date columns of facts get a foreign key.", scalar: oneOf("true", "false")}},
	}}},
	{"results", shape{doc: "Requests by name, which roundyear run carries out.", entries: &resultForm, nothing: true}},
}}

// resultForm is a request. Its settings are those of the flags of its command, which the plan does not know.
var resultForm = shape{fields: []field{
	{"command", shape{doc: "Command, such as totals.", scalar: anyText}},
	{"inputs", shape{doc: "What it reads: files and patterns, addresses, or facts of the plan by their names.", list: &shape{scalar: anyText}, single: true}},
}, others: &shape{doc: "Setting: a flag of the command, with _ in place of -.", list: &shape{scalar: anyValue}, single: true}}

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
	{"since", shape{doc: "Day from which the rule is valid, if another rule is valid before it.", scalar: date}},
	{"months", shape{doc: "A year of twelve months.", fields: append([]field{
		{"starts", shape{doc: "Month in which the year starts, or a day: 6 april.", scalar: yearPart}},
		{"ends", shape{doc: "Month in which the year ends, or a day: 5 april.", scalar: yearPart}},
	}, groupForms()...)}},
	{"weeks", shape{doc: "A year of 52 or 53 weeks.", fields: append([]field{
		{"ends_on", shape{doc: "Weekday on which the year ends.", scalar: weekdayName}},
		{"last_in", shape{doc: "Month whose last such weekday ends the year.", scalar: monthName}},
		{"nearest_to", shape{doc: "The year ends on the weekday nearest to this date: 31 january.", scalar: yearDay}},
		{"split", shape{doc: "Weeks of the periods, repeated through the year: 4-5-4, 13x4 or a list.", list: &shape{scalar: splitText}, single: true}},
		{"leap_week", shape{doc: "Period that gets week 53.", scalar: lastOrNumber}},
	}, groupForms()...)}},
	{"years", shape{doc: "Years declared by hand.", list: &shape{fields: append([]field{
		{"year", shape{doc: "Number of the year.", scalar: number(1583, 9999)}},
		{"starts", shape{doc: "First days of its periods.", list: &shape{scalar: date}}},
		{"ends", shape{doc: "Last day.", scalar: date}},
	}, groupForms()...)}}},
	{"named_by", shape{doc: "Calendar year that gives a fiscal year its number: the one in which it starts or ends, or the one with most of its days.", scalar: oneOf("end", "start", "most")}},
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
		{"key", shape{doc: "Value of the columns that are keys.", scalar: number(-99999999, 9999999)}},
		{"label", shape{doc: "Value of the columns of text.", scalar: anyText}},
		{"flags", shape{doc: "Value of the columns that are true or false.", scalar: oneOf("false", "blank")}},
		{"numbers", shape{doc: "Value of the columns of whole numbers other than keys.", scalar: oneOf("blank", "key")}},
	}}
}

var factsForm = shape{doc: "Facts and how to read their dates.", fields: []field{
	{"files", shape{doc: "Files: paths or patterns, relative to the plan's folder.", list: &shape{scalar: anyText}, single: true}},
	{"dates", shape{doc: "Date columns by name.", entries: &shape{nothing: true, fields: []field{
		{"pattern", shape{doc: "Date format in Unicode LDML.", scalar: anyText}},
		{"order", shape{doc: "Part that comes first where the data does not show it.", scalar: oneOf("day", "month", "year")}},
		{"language", shape{doc: "Language of month names.", scalar: anyText}},
		{"zone", shape{doc: "IANA time zone of the data.", scalar: anyText}},
		{"to_zone", shape{doc: "IANA time zone to convert to (default: that of zone).", scalar: anyText}},
		{"day_starts", shape{doc: "Time at which the business day starts.", scalar: timeOfDay}},
		{"parts", shape{doc: "Columns of a date in several: year, month and day, or columns with their roles such as year:Y and week:W.", list: &shape{scalar: anyText}}},
		{"grain", shape{doc: "Meaning of a value: a day, or a whole period that starts on that day.", scalar: oneOf("day", "week", "month", "quarter", "half", "year")}},
	}}}},
	{"out", shape{doc: "File that normalise writes; other commands then use it instead of files.", scalar: anyText}},
	{"header", shape{doc: "Whether the files have a header (default: yes, unless the first row looks like data).", scalar: oneOf("true", "false")}},
	{"skip", shape{doc: "Number of lines above the header.", scalar: number(0, 1000)}},
	{"encoding", shape{doc: "Encoding of the files, if they are not UTF-8: windows-1252, iso-8859-15, shift_jis …", scalar: anyText}},
	{"delimiter", shape{doc: "Character between fields, or tab, space, or spaces for two and more (default: as in the header).", scalar: mark("tab", "space", "spaces")}},
	{"quote", shape{doc: "Character around fields (default: a double quote), or none if quotes are a part of the text.", scalar: mark("none")}},
	{"comment", shape{doc: "Text that begins lines that are no rows.", scalar: anyText}},
	{"widths", shape{doc: "Widths of columns in characters; the last one may be * for the rest of the line.", list: &shape{scalar: width}}},
	{"ragged", shape{doc: "What is done about rows with too few or too many fields (default: they are rejected).", list: &shape{scalar: oneOf("fill", "cut", "both")}, single: true}},
	{"swapped", shape{doc: "Whether the date cells of columns of a workbook have day and month swapped, by the names of the columns.", entries: &shape{scalar: oneOf("true", "false")}}},
	{"blank_as", shape{doc: "Texts that stand for no value, such as n/a.", list: &shape{scalar: anyText}, single: true}},
	{"rename", shape{doc: "New names of columns, by the names that they have.", entries: &shape{scalar: anyText}}},
	{"let", shape{doc: "Columns that are computed, such as revenue = units * price. Names in them are the new ones.", list: &shape{scalar: anyText}, single: true}},
	{"keep", shape{doc: "Columns of the files that normalise writes, in this order (default: all).", list: &shape{scalar: anyText}}},
	{"numbers", shape{doc: "Columns to which normalise adds one with their plain number, as --number does; rows whose value is none are rejected.", list: &shape{scalar: anyText}, single: true}},
	{"texts", shape{doc: "Columns that stay text in outputs whose columns have types, though all of their values are numbers.", list: &shape{scalar: anyText}, single: true}},
	{"distinct", shape{doc: "Columns of which each row has other values; normalise rejects rows that repeat those of an earlier row.", list: &shape{scalar: anyText}, single: true}},
	{"sort", shape{doc: "Columns that normalise sorts the rows by, such as sold_date or amount desc.", list: &shape{scalar: anyText}, single: true}},
	{"placeholder", shape{doc: "Days that stand for no date, such as 1900-01-01, or usual for those that systems commonly write.", list: &shape{scalar: dayOrUsual}, single: true}},
	{"decimal", shape{doc: "Decimal mark of columns with numbers, by their names (default: decided from the values).", entries: &shape{scalar: oneOf("point", "comma")}}},
	{"minus", shape{doc: "Mark of numbers that count as negative, where they are marked CR and DR.", scalar: oneOf("CR", "DR")}},
	{"loaded_through", shape{doc: "Day up to which the facts are complete, SOURCE=DAY for a file or a group, such as a shop, or each for the last day of each group by its own rows. A gap after it is not filled.", list: &shape{scalar: loadedThrough}, single: true}},
	{"order_per", shape{doc: "Column that tells which source system a row comes from, if they write day and month in different orders.", scalar: anyText}},
}}
