package dialect_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"roundyear/internal/dialect"
)

func TestAQueryIsOneStatement(t *testing.T) {
	for _, d := range []*dialect.Dialect{dialect.Postgres, dialect.MySQL, dialect.SQLite} {
		for _, text := range []string{
			"SELECT a FROM b", "SELECT ')' FROM b;", "SELECT a -- ) ;\n FROM b ; -- end", "SELECT \"a;)\" FROM (SELECT 1) q", "WITH q AS (SELECT 1 /* ; ) */) SELECT * FROM q ;\n", "SELECT 'it''s ;' FROM b", "SELECT a FROM b -- no end",
		} {
			assert.NoError(t, checked(d, text), "%s: %s", d.Name, text)
		}
		for text, why := range map[string]string{
			"SELECT d FROM f) LIMIT 0; PRAGMA query_only=off; --": "parentheses", "SELECT 1; SELECT 2": "more than one", "SELECT 1;;SELECT 2": "more than one", "SELECT (1": "parentheses", "SELECT 'a": "without an end",
			"SELECT 1 /* open": "without an end", "SELECT \"a": "without an end", "SELECT 1\x00": "NUL", "SELECT 1 -- x\n; DROP TABLE a": "more than one", "SELECT ')') FROM a; DROP TABLE a": "parentheses", "SELECT 1 FROM a; /* x */ DROP TABLE a": "more than one",
		} {
			assert.ErrorContains(t, checked(d, text), why, "%s: %s", d.Name, text)
		}
	}
	for text, d := range map[string]*dialect.Dialect{
		`SELECT E'a\' ) ;' FROM b`: dialect.Postgres, "SELECT $x$ ) ; $x$, $1": dialect.Postgres, "SELECT 1 /* a /* b */ ) ; */": dialect.Postgres, "SELECT $$;$$": dialect.Postgres, `SELECT '\' FROM b`: dialect.Postgres, "SELECT (ARRAY[1,2])[1]": dialect.Postgres,
		`SELECT 'a\' ) ;' FROM b`: dialect.MySQL, "SELECT 1 # ) ;\n FROM b": dialect.MySQL, "SELECT 5--1": dialect.MySQL, "SELECT `a;)`": dialect.MySQL,
		"SELECT [a;)] FROM b": dialect.SQLite, `SELECT '\' FROM c`: dialect.SQLite,
	} {
		assert.NoError(t, checked(d, text), "%s: %s", d.Name, text)
	}
	for text, d := range map[string]*dialect.Dialect{
		`SELECT '\'; DROP TABLE a; --'`: dialect.Postgres, `SELECT '\'; DROP TABLE a; --' `: dialect.SQLite, "SELECT 1 /*! ; DROP TABLE a */": dialect.MySQL, "SELECT 1 /*M! ; DROP */": dialect.MySQL, "SELECT 1 /* a /* b */ ; DROP TABLE a": dialect.SQLite,
		"SELECT $x$ ; $y$": dialect.Postgres, "SELECT 1 --; DROP TABLE a": nil, "SELECT [a; DROP TABLE b": dialect.SQLite, "SELECT 1 --1; DROP TABLE a": dialect.MySQL,
	} {
		if d != nil {
			assert.Error(t, checked(d, text), "%s: %s", d.Name, text)
		}
	}
}

func checked(d *dialect.Dialect, text string) error {
	_, err := d.Query(text)
	return err
}

func TestAQueryLosesWhatEndsIt(t *testing.T) {
	query, err := dialect.SQLite.Query(" SELECT ';' ; -- ;\n")
	assert.NoError(t, err)
	assert.Equal(t, "SELECT ';'", query)
}
