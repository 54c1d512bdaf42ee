package database

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"roundyear/fault"
	"roundyear/internal/dialect"
)

// OwnParts are what the program itself has put on a table, by the names of columns.
type OwnParts struct {
	// Indexes have an index, Uniques are unique, and Foreign hold keys of other tables.
	Indexes, Uniques, Foreign []string
}

// additionsOfPostgres lists what somebody else has put on a table of PostgreSQL, and what goes when the table is made anew: its kind, its
// name, and for indexes and constraints of one column that column.
const additionsOfPostgres = `WITH t AS (SELECT c.* , c.oid AS id FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = %[1]s AND c.relname = %[2]s AND c.relkind = 'r')
SELECT 'row-level security', '', '' FROM t WHERE relrowsecurity
UNION ALL SELECT 'policy', polname, '' FROM t JOIN pg_policy p ON p.polrelid = t.id
UNION ALL SELECT 'trigger', tgname, '' FROM t JOIN pg_trigger g ON g.tgrelid = t.id WHERE NOT tgisinternal
UNION ALL SELECT 'rule', rulename, '' FROM t JOIN pg_rewrite r ON r.ev_class = t.id WHERE ev_type <> '1'
UNION ALL SELECT CASE contype WHEN 'c' THEN 'check' WHEN 'f' THEN 'foreign key' WHEN 'u' THEN 'unique constraint' ELSE 'constraint' END, conname,
  CASE WHEN cardinality(conkey) = 1 THEN (SELECT attname FROM pg_attribute a WHERE a.attrelid = t.id AND a.attnum = conkey[1]) ELSE '' END
  FROM t JOIN pg_constraint k ON k.conrelid = t.id WHERE contype IN ('c', 'f', 'u', 'x')
UNION ALL SELECT 'index', i.relname, CASE WHEN x.indnkeyatts = 1 AND x.indnatts = 1 AND x.indkey[0] > 0 AND x.indpred IS NULL AND NOT x.indisunique THEN (SELECT attname FROM pg_attribute a WHERE a.attrelid = t.id AND a.attnum = x.indkey[0]) ELSE '' END
  FROM t JOIN pg_index x ON x.indrelid = t.id JOIN pg_class i ON i.oid = x.indexrelid WHERE NOT x.indisprimary AND NOT EXISTS (SELECT 1 FROM pg_constraint k WHERE k.conindid = x.indexrelid)
UNION ALL SELECT 'option', unnest(reloptions), '' FROM t
UNION ALL SELECT 'default', a.attname, '' FROM t JOIN pg_attrdef d ON d.adrelid = t.id JOIN pg_attribute a ON a.attrelid = t.id AND a.attnum = d.adnum
UNION ALL SELECT 'statistics', stxname, '' FROM t JOIN pg_statistic_ext e ON e.stxrelid = t.id
UNION ALL SELECT 'publication', pubname, '' FROM t JOIN pg_publication_rel p ON p.prrelid = t.id JOIN pg_publication u ON u.oid = p.prpubid
UNION ALL SELECT 'privileges on column', a.attname, '' FROM t JOIN pg_attribute a ON a.attrelid = t.id WHERE a.attacl IS NOT NULL AND NOT a.attisdropped
UNION ALL SELECT 'owner', pg_get_userbyid(relowner), '' FROM t WHERE pg_get_userbyid(relowner) <> current_user
UNION ALL SELECT 'unlogged', '', '' FROM t WHERE relpersistence = 'u'
UNION ALL SELECT 'tablespace', s.spcname, '' FROM t JOIN pg_tablespace s ON s.oid = t.reltablespace`

// additionsOfMySQL is the same of MariaDB and MySQL.
const additionsOfMySQL = `SELECT 'trigger', trigger_name, '' FROM information_schema.triggers WHERE event_object_schema = DATABASE() AND event_object_table = %[1]s
UNION ALL SELECT LOWER(c.constraint_type), c.constraint_name, COALESCE((SELECT CASE WHEN COUNT(*) = 1 THEN MAX(k.column_name) ELSE '' END FROM information_schema.key_column_usage k
  WHERE k.constraint_schema = c.constraint_schema AND k.table_name = c.table_name AND k.constraint_name = c.constraint_name), '')
  FROM information_schema.table_constraints c WHERE c.table_schema = DATABASE() AND c.table_name = %[1]s AND c.constraint_type IN ('CHECK', 'FOREIGN KEY')
UNION ALL SELECT CASE WHEN MAX(non_unique) = 0 THEN 'unique' ELSE 'index' END, index_name, CASE WHEN COUNT(*) = 1 THEN MAX(column_name) ELSE '' END
  FROM information_schema.statistics WHERE table_schema = DATABASE() AND table_name = %[1]s AND index_name <> 'PRIMARY' GROUP BY index_name
UNION ALL SELECT 'partition', partition_name, '' FROM information_schema.partitions WHERE table_schema = DATABASE() AND table_name = %[1]s AND partition_name IS NOT NULL
UNION ALL SELECT 'option', create_options, '' FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name = %[1]s AND create_options NOT IN ('', 'partitioned')
UNION ALL SELECT 'default', column_name, '' FROM information_schema.columns WHERE table_schema = DATABASE() AND table_name = %[1]s AND column_default IS NOT NULL AND column_default <> 'NULL'`

// additionsOfSQLite is the same of SQLite.
const additionsOfSQLite = `SELECT 'trigger', name, '' FROM sqlite_schema WHERE type = 'trigger' AND lower(tbl_name) = lower(%[1]s)
UNION ALL SELECT CASE WHEN l."unique" THEN 'unique' ELSE 'index' END, l.name, CASE WHEN l.partial OR (SELECT count(*) FROM pragma_index_info(l.name)) <> 1 THEN '' ELSE coalesce((SELECT name FROM pragma_index_info(l.name)), '') END
  FROM pragma_index_list(%[1]s) l WHERE l.origin = 'c'
UNION ALL SELECT 'default', name, '' FROM pragma_table_info(%[1]s) WHERE dflt_value IS NOT NULL`

// additionsIn names what the rows of such a query list, without what the program has made itself.
func (o OwnParts) additionsIn(each func(give func(values [][]byte) error) error, table string) (additions []string, err error) {
	err = each(func(values [][]byte) error {
		kind, name, column := string(values[0]), string(values[1]), string(values[2])
		own := map[string][]string{"index": o.Indexes, "unique": o.Uniques, "unique constraint": o.Uniques, "foreign key": o.Foreign}[kind]
		if column != "" && slices.Contains(own, column) {
			return nil
		}
		// Indexes that a foreign key needs are made by the database, and those of unique columns with blanks by ours.
		isOurs := func(column string) bool { return name == dialect.IndexName(table, column) }
		if kind == "index" && column != "" && slices.Contains(o.Foreign, column) || slices.ContainsFunc(o.Uniques, isOurs) || slices.ContainsFunc(o.Indexes, isOurs) {
			return nil
		}
		additions = append(additions, strings.TrimSpace(kind+" "+name))
		return nil
	})
	return additions, err
}

// Additions returns what somebody has put on a table.
func (s *postgresSession) Additions(ctx context.Context, table string, own OwnParts) ([]string, error) {
	query := fmt.Sprintf(additionsOfPostgres, dialect.Postgres.Text(s.schema), dialect.Postgres.Text(table))
	return own.additionsIn(func(give func([][]byte) error) error { return s.Each(ctx, query, give) }, table)
}

// Additions returns what somebody has put on a table.
func (s *mysqlSession) Additions(ctx context.Context, table string, own OwnParts) ([]string, error) {
	query := fmt.Sprintf(additionsOfMySQL, dialect.MySQL.Text(table))
	return own.additionsIn(func(give func([][]byte) error) error { return s.Each(ctx, query, give) }, table)
}

// Additions returns what somebody has put on a table.
func (s *sqliteSession) Additions(ctx context.Context, table string, own OwnParts) ([]string, error) {
	query := fmt.Sprintf(additionsOfSQLite, dialect.SQLite.Text(table))
	return own.additionsIn(func(give func([][]byte) error) error { return s.Each(ctx, query, give) }, table)
}

// WouldLose is the fault of a table that would be made anew and lose what somebody has put on it.
func WouldLose(shown string, additions []string) error {
	const most = 5
	named := strings.Join(additions[:min(len(additions), most)], ", ")
	if more := len(additions) - most; more > 0 {
		named += fmt.Sprintf(" and %d more", more)
	}
	return &fault.Fault{File: shown, What: "would be made anew and lose what was added to it: " + named, Remedy: "Add that again afterwards, and replace the table with --force, or choose another name"}
}
