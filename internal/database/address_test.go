package database_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/database"
)

func TestAddresses(t *testing.T) {
	for text, want := range map[string][3]string{
		"postgres://ann@db:5433/shop#sales":                         {"postgres", "shop", "sales"},
		"postgresql://db/shop":                                      {"postgres", "shop", ""},
		"mariadb://ann@db/shop?tls=true#SELECT '#1' AS a FROM b, c": {"mysql", "shop", "SELECT '#1' AS a FROM b, c"},
		"postgres:///shop?host=/run/pg#my%20table":                  {"postgres", "shop", "my table"},
	} {
		require.True(t, database.IsAddress(text))
		a, err := database.Parse(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, [3]string{a.Scheme, a.Database(), a.Table}, text)
	}
	for _, name := range []string{"a.csv", "postgres:a.csv", "https://host/a.csv", "C:\\a.csv", "://a"} {
		assert.False(t, database.IsAddress(name), name)
	}
	for text, message := range map[string]string{
		"postgres://ann:secret@db:x/shop#t": "postgres://ann@db:x/shop#t: is not an address of a database",
		"postgres://ann@db#t":               "names no database. Write it as postgres://user@host/database#table",
		"mysql://ann:s@db/#t":               "names no database. Write it as mysql://user@host/database#table",
	} {
		_, err := database.Parse(text)
		require.ErrorContains(t, err, message)
		assert.NotContains(t, err.Error(), "secret")
	}
}

// A password is taken out of an address, and stays out of all that is shown.
func TestPasswordsAreConcealed(t *testing.T) {
	for text, want := range map[string]string{
		"postgres://ann:se%23cret@db/shop#sales":            "postgres://ann@db/shop#sales",
		"mysql://ann:secret@db:3306/shop#SELECT a FROM b":   "mysql://ann@db:3306/shop#SELECT a FROM b",
		"postgres://db/shop?user=ann&password=secret#sales": "postgres://db/shop?user=ann#sales",
		"postgres://ann:secret:with@signs@db/shop:x#sales":  "",
		"postgres://ann:sec ret@db/%zz#sales":               "",
	} {
		shown, had := database.Conceal(text)
		assert.NotContains(t, shown, "secret", text)
		assert.NotContains(t, shown, "sec ret", text)
		assert.NotContains(t, database.Shown(text), "secret", text)
		if want != "" {
			assert.Equal(t, want, shown)
			assert.True(t, had)
		}
	}
	shown, had := database.Conceal("clean/sales.csv")
	assert.Equal(t, "clean/sales.csv", shown)
	assert.False(t, had)
}
