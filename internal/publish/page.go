package publish

import (
	"fmt"
	"slices"
	"strings"
)

// pageMark is the last line of a page, by which one that somebody else has
// written is known.
const pageMark = "Written by roundyear build; it is written anew each time."

// Page returns the model as a page in Markdown for people who build reports.
func (m *Model) Page() []byte {
	var p strings.Builder
	fmt.Fprintf(&p, "# The table %s\n\n%s\n", m.Name, m.Title)
	if len(m.Files) > 0 {
		fmt.Fprintf(&p, "\nIt is in `%s`.\n", strings.Join(m.Files, "`, `"))
	}
	if len(m.Rules) > 0 {
		p.WriteString("\n## How the years run\n\n")
		for _, rule := range m.Rules {
			fmt.Fprintf(&p, "- %s\n", rule)
		}
	}
	if m.Date != "" {
		fmt.Fprintf(&p, "\n## Declare it as the date table\n\nDeclare `%s` as the date table of the model, by its column `%s`: it has every day once and no hole.\n", m.Name, m.Date)
	}
	m.pageJoins(&p)
	m.pageSpecial(&p)
	m.pageSorting(&p)
	if len(m.Hierarchies) > 0 {
		p.WriteString("\n## Ways down\n\n| hierarchy | from coarse to fine |\n|---|---|\n")
		for _, hierarchy := range m.Hierarchies {
			fmt.Fprintf(&p, "| %s | `%s` |\n", hierarchy.Name, strings.Join(hierarchy.Levels, "` › `"))
		}
	}
	m.pageHidden(&p)
	p.WriteString("\n## All columns\n\n| column | type | sorted by | meaning |\n|---|---|---|---|\n")
	for _, column := range m.Columns {
		fmt.Fprintf(&p, "| `%s` | %s | %s | %s |\n", column.Name, column.Type, code(column.SortBy), strings.ReplaceAll(column.Meaning, "|", `\|`))
	}
	fmt.Fprintf(&p, "\n%s\n", pageMark)
	return []byte(p.String())
}

func code(name string) string {
	if name == "" {
		return ""
	}
	return "`" + name + "`"
}

func (m *Model) pageJoins(p *strings.Builder) {
	if m.Key == "" {
		return
	}
	fmt.Fprintf(p, "\n## Join the facts to it\n\nFacts join by `%s`. Make it an outer join that keeps all facts: one whose day is not here, or\nwhich has no day, must show up in the totals and not vanish.\n", m.Key)
	if len(m.Roles) == 0 {
		return
	}
	p.WriteString("\n| facts | date | join | |\n|---|---|---|---|\n")
	for _, role := range m.Roles {
		table, kind := m.Name, "main"
		if !role.Main {
			table, kind = role.Prefix+m.Name, "second role"
		}
		fmt.Fprintf(p, "| %s | %s | `%s.%s` = `%s.%s` | %s |\n", role.Facts, role.Date, role.Facts, role.Key, table, m.Key, kind)
	}
	for _, role := range m.Roles {
		if !role.Main {
			example := m.Key
			for _, column := range m.Columns {
				if !column.Hide && column.Name != m.Key && column.Name != m.Date {
					example = column.Name
					break
				}
			}
			fmt.Fprintf(p, "\n`%s` has more than one date. By its main one it joins to `%s`; for %s bring the table in again as\n`%s%s` and put `%s` before the names of its columns (`%s%s`), or keep that join inactive and ask for it by name.\n",
				role.Facts, m.Name, role.Date, role.Prefix, m.Name, role.Prefix, role.Prefix, example)
		}
	}
}

func (m *Model) pageSpecial(p *strings.Builder) {
	if len(m.Special) == 0 {
		return
	}
	p.WriteString("\n## Rows of no day\n\nTheir date is blank. Where the date column of a date table may have no blank, filter them out there and\nkeep them for the join.\n\n| row | key | label |\n|---|---|---|\n")
	for _, row := range m.Special {
		fmt.Fprintf(p, "| %s | %d | %s |\n", strings.ReplaceAll(row.Name, "_", " "), row.Key, row.Label)
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
		fmt.Fprintf(p, "\n## Sort labels in time order\n\nWithout this April comes first.\n\n| sort this column | by this one |\n|---|---|\n%s", strings.Join(rows, ""))
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
		fmt.Fprintf(p, "\n## Hide from reports\n\nThese are there to join and to sort by: %s.\n", strings.Join(hidden, ", "))
	}
}

// IsOurPage tells whether a page is one that this program has written.
func IsOurPage(text []byte) bool { return strings.HasSuffix(strings.TrimSpace(string(text)), pageMark) }
