package loading

import (
	"context"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"roundyear/fault"
	"roundyear/internal/dialect"
	"roundyear/nearest"
)

// Joined is a table of facts that is in the database already, and its column that holds keys or dates of the date dimension.
type Joined struct {
	Facts, Column string
	// Table is the date dimension, Key and Date its columns, and Columns all that a view of the facts shows of it.
	Table, Key, Date string
	Columns          []string
	// WantsIndex and WantsForeign tell what the column is to have.
	WantsIndex, WantsForeign bool

	join dialect.Join
}

// JoinResult is what became of a table of facts.
type JoinResult struct {
	Facts, Column string
	// Unmatched is how many rows have a value that the other table does not have.
	Unmatched int
	// HasIndex and HasForeign tell what the column got.
	HasIndex, HasForeign bool
}

// resolve finds the tables of facts that are there, and adds a view of each: its rows with the columns of their days.
func (p *publishing) resolve(ctx context.Context) error {
	for i := range p.Joined {
		j := &p.Joined[i]
		found, err := p.Session.Describe(ctx, j.Facts)
		if err != nil {
			return err
		}
		if found == nil {
			return p.noTable(ctx, j.Facts)
		}
		var names []string
		for _, c := range found.Columns {
			names = append(names, c.Name)
		}
		at := slices.Index(names, j.Column)
		if at < 0 {
			problem := &fault.Fault{File: p.Session.Name(), What: fmt.Sprintf("%s has no column %q", j.Facts, j.Column), Remedy: "Its columns: " + strings.Join(names, ", ")}
			if near := nearest.Name(j.Column, names); near != "" {
				problem.Remedy = fmt.Sprintf("Did you mean %q?", near)
			}
			return problem
		}
		if err := j.joinBy(p, found.Columns[at].Type); err != nil {
			return err
		}
		p.Model.Views = append(p.Model.Views, j.view(names))
	}
	return nil
}

// noTable is the fault of a table that is not there.
func (p *publishing) noTable(ctx context.Context, name string) error {
	names, err := p.Session.Tables(ctx)
	if err != nil {
		return err
	}
	problem := &fault.Fault{File: p.Session.Name(), What: fmt.Sprintf("has no table %q", name), Remedy: "Its tables: " + strings.Join(names, ", "), Kind: fault.Missing}
	if near := nearest.Name(name, names); near != "" {
		problem.Remedy = fmt.Sprintf("Did you mean %q?", near)
	} else if len(names) == 0 {
		problem.Remedy = "It has no tables"
	}
	return problem
}

// isWhole tells a type of whole numbers, as PostgreSQL and MariaDB name it. Others have "int" in their names, such as interval and point.
var isWhole = regexp.MustCompile(`^(small|big|tiny|medium)?int(eger)?(\(\d+\))?( unsigned)?( zerofill)?$`)

// joinBy finds by the type of the column how it joins.
func (j *Joined) joinBy(p *publishing, typ string) error {
	typ = strings.ToLower(strings.TrimSuffix(typ, " not null"))
	j.join = dialect.Join{Table: j.Table, As: "d", From: j.Column}
	isAnyText := p.d == dialect.SQLite && (typ == "" || strings.Contains(typ, "text") || strings.Contains(typ, "char"))
	switch {
	case isWhole.MatchString(typ), p.d == dialect.SQLite && strings.Contains(typ, "int"): // by its rule of affinity, INT anywhere in the name
		j.join.Column = j.Key
	case typ == "date":
		j.join.Column = j.Date
	case strings.HasPrefix(typ, "timestamp"), strings.HasPrefix(typ, "datetime"), isAnyText:
		j.join.Column, j.join.IsMoment = j.Date, true
	default:
		return &fault.Fault{File: p.Session.Name(), What: fmt.Sprintf("%s.%s is of type %s, which holds neither dates nor keys", j.Facts, j.Column, typ), Remedy: "Normalise the facts first, or name a column of dates"}
	}
	if j.join.Column == "" {
		return &fault.Fault{File: p.Session.Name(), What: fmt.Sprintf("%s has no column for %s.%s of type %s to join", j.Table, j.Facts, j.Column, typ), Remedy: "Add date_key and date to the columns of the dimension"}
	}
	return nil
}

// view is the facts with the columns of their days.
func (j *Joined) view(names []string) *dialect.View {
	return FactsView(j.Facts, names, []ViewJoin{{Join: j.join, Prefix: j.Column + "_", Columns: j.Columns}}, j.Table)
}

// ViewJoin is the date dimension as one date column of facts has it.
type ViewJoin struct {
	dialect.Join
	// Prefix stands before the columns of all dates but the first one, and of those that the facts have already.
	Prefix  string
	Columns []string
}

// FactsView is a view of facts with the columns of their days: an outer join, so that no row is lost.
func FactsView(facts string, names []string, joins []ViewJoin, table string) *dialect.View {
	v := &dialect.View{Name: facts + "_with_" + table, Comment: fmt.Sprintf("Each row of %s, with the columns of its day.", facts), From: facts, As: "f"}
	taken := map[string]bool{}
	for _, name := range names {
		v.Columns = append(v.Columns, dialect.ViewColumn{Of: "f", Name: name})
		taken[strings.ToLower(name)] = true
	}
	for i, join := range joins {
		if join.As = "d"; i > 0 {
			join.As = fmt.Sprintf("d%d", i+1)
		}
		v.Joins = append(v.Joins, join.Join)
		for _, name := range join.Columns {
			as := name
			if i > 0 || taken[strings.ToLower(as)] {
				as = join.Prefix + name
			}
			if taken[strings.ToLower(as)] {
				continue // the facts have it already
			}
			as = dialect.FreeName(as, func(lower string) bool { return taken[lower] })
			taken[strings.ToLower(as)] = true
			v.Columns = append(v.Columns, dialect.ViewColumn{Of: join.As, Name: name, As: as})
		}
	}
	return v
}

// join gives the columns of facts that are there what was asked for.
func (p *publishing) join(ctx context.Context) error {
	for _, j := range p.Joined {
		result, err := p.joinOne(ctx, j)
		if err != nil {
			return err
		}
		p.outcome.Joined = append(p.outcome.Joined, result)
	}
	return nil
}

func (p *publishing) joinOne(ctx context.Context, j Joined) (JoinResult, error) {
	result := JoinResult{Facts: j.Facts, Column: j.Column}
	prove := p.d.CountUnmatched(j.Facts, j.join)
	if p.Dry {
		p.outcome.Statements = append(p.outcome.Statements, prove)
	} else if err := p.Session.Each(ctx, prove, func(values [][]byte) (err error) {
		result.Unmatched, err = strconv.Atoi(string(values[0]))
		return err
	}); err != nil {
		return result, err
	}
	once := func(what, statement string) (bool, error) {
		own := state{name: fmt.Sprintf("%s %s.%s", what, j.Facts, j.Column), model: p.Name, made: statement}
		for _, known := range p.statesOf(own.name) {
			if known.made == statement {
				return false, nil
			}
		}
		return true, p.do(ctx, j.Facts, statement, own.insert(p.d))
	}
	var err error
	if j.WantsIndex {
		t := &dialect.Table{Name: j.Facts, Columns: []dialect.Column{{}}, Indexes: []int{0}}
		t.Columns[0].Name = j.Column
		if result.HasIndex, err = once("index", p.d.CreateIndexes(t, j.Facts)[0]); err != nil {
			return result, err
		}
	}
	if !j.WantsForeign || result.Unmatched > 0 {
		return result, nil
	}
	switch {
	case p.d.PlacesForeign():
		return result, &fault.Fault{File: p.Session.Name(), What: fmt.Sprintf("%s cannot add a foreign key to a table that is there (%s)", p.d.Title, j.Facts), Remedy: "Omit --foreign-keys, or publish the facts from their file"}
	case j.join.IsMoment:
		return result, &fault.Fault{File: p.Session.Name(), What: fmt.Sprintf("%s.%s has times of day, so it cannot be a foreign key", j.Facts, j.Column), Remedy: "Omit --foreign-keys, or join by a column of keys or dates"}
	}
	result.HasForeign, err = once("foreign key", p.d.AddForeign(j.Facts, dialect.Foreign{Column: j.Column, Table: j.Table, To: j.join.Column}))
	return result, err
}
