package publish

import (
	"fmt"
	"slices"
	"strings"

	"roundyear/internal/markup"
)

// pageMark starts the last line of a page, which tells it from one that somebody
// else has written.
const pageMark = "Written by roundyear build"

// Page returns the model as a page in Markdown for people who build reports.
func (m *Model) Page() []byte {
	var p strings.Builder
	fmt.Fprintf(&p, "# The table %s\n\n%s\n", m.Name, m.Title)
	if len(m.Files) > 0 {
		fmt.Fprintf(&p, "\nFile: `%s`\n", strings.Join(m.Files, "`, `"))
	}
	if len(m.Rules) > 0 {
		p.WriteString("\n## How the years run\n\n")
		for _, rule := range m.Rules {
			fmt.Fprintf(&p, "- %s\n", rule)
		}
	}
	if m.Date != "" {
		fmt.Fprintf(&p, "\n## Declare it as the date table\n\nDeclare `%s` as the date table of the model, with the date column `%s`: it contains every day exactly once, without gaps.\n", m.Name, m.Date)
	}
	m.pageJoins(&p)
	m.pageSpecial(&p)
	m.pageSorting(&p)
	if len(m.Hierarchies) > 0 {
		p.WriteString("\n## Drill-down hierarchies\n\n| hierarchy | levels, from coarse to fine |\n|---|---|\n")
		for _, hierarchy := range m.Hierarchies {
			fmt.Fprintf(&p, "| %s | `%s` |\n", hierarchy.Name, strings.Join(hierarchy.Levels, "` › `"))
		}
	}
	m.pageHidden(&p)
	p.WriteString("\n## All columns\n\n| column | type | sorted by | meaning |\n|---|---|---|---|\n")
	for _, column := range m.Columns {
		fmt.Fprintf(&p, "| %s | %s | %s | %s |\n", markup.MarkdownCode(column.Name), column.Type, code(column.SortBy), strings.ReplaceAll(column.Meaning, "|", `\|`))
	}
	fmt.Fprintf(&p, "\n%s, which replaces it on each run.\n", pageMark)
	return []byte(p.String())
}

func code(name string) string {
	if name == "" {
		return ""
	}
	return "`" + name + "`"
}

func (m *Model) pageJoins(p *strings.Builder) {
	key := m.joinOf(Role{}).to
	if key == "" {
		return
	}
	fmt.Fprintf(p, "\n## Join the facts\n\nJoin facts by `%s`. Use an outer join that keeps all facts, so that facts without a date, or with\na date that is not in this table, still appear in the totals.\n", key)
	if len(m.Roles) == 0 {
		return
	}
	p.WriteString("\n| facts | date | join | |\n|---|---|---|---|\n")
	for _, role := range m.Roles {
		table, kind := m.Name, "main"
		if !role.Main {
			table, kind = role.Prefix+m.Name, "additional role"
		}
		fmt.Fprintf(p, "| %s | %s | %s = %s | %s |\n", markup.Markdown(role.Facts), markup.Markdown(role.Date), markup.MarkdownCode(role.Facts+"."+m.joinOf(role).from), markup.MarkdownCode(table+"."+key), kind)
	}
	for _, role := range m.Roles {
		if !role.Main {
			example := key
			for _, column := range m.Columns {
				if !column.Hide && column.Name != key && column.Name != m.Date {
					example = column.Name
					break
				}
			}
			fmt.Fprintf(p, "\n`%s` has more than one date. Its main date joins to `%s`. For %s, import the table again as\n`%s%s` and add the prefix `%s` to its column names (`%s%s`), or use an inactive join.\n",
				role.Facts, m.Name, role.Date, role.Prefix, m.Name, role.Prefix, role.Prefix, example)
		}
	}
}

func (m *Model) pageSpecial(p *strings.Builder) {
	if len(m.Special) == 0 {
		return
	}
	p.WriteString("\n## Special rows\n\nTheir date is blank. If the date column of a date table must not have blanks, filter these rows out of\nthe date table and keep them for the join.\n\n| row | key | label |\n|---|---|---|\n")
	for _, row := range m.Special {
		fmt.Fprintf(p, "| %s | %d | %s |\n", markup.Markdown(strings.ReplaceAll(row.Name, "_", " ")), row.Key, markup.Markdown(row.Label))
	}
}

func (m *Model) pageSorting(p *strings.Builder) {
	var rows []string
	for _, column := range m.Columns {
		if column.SortBy != "" {
			rows = append(rows, fmt.Sprintf("| `%s` | `%s` |\n", column.Name, column.SortBy))
		}
	}
	if len(rows) > 0 {
		fmt.Fprintf(p, "\n## Sort labels in time order\n\nOtherwise they sort alphabetically, and April comes first.\n\n| column | sort by |\n|---|---|\n%s", strings.Join(rows, ""))
	}
}

func (m *Model) pageHidden(p *strings.Builder) {
	var hidden []string
	for _, column := range m.Columns {
		if column.Hide {
			hidden = append(hidden, "`"+column.Name+"`")
		}
	}
	if len(hidden) > 0 {
		slices.Sort(hidden)
		fmt.Fprintf(p, "\n## Hide in reports\n\nThese columns are for joining and sorting: %s.\n", strings.Join(hidden, ", "))
	}
}

// IsOurPage tells whether a page is one that this program has written.
func IsOurPage(text []byte) bool {
	lines := strings.Split(strings.TrimSpace(string(text)), "\n")
	return strings.HasPrefix(lines[len(lines)-1], pageMark)
}
