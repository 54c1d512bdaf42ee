package database_test

import (
	"strings"
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
	for text, scheme := range map[string]string{"POSTGRES://ann@db/shop#t": "postgres", "MariaDB://ann@db/shop#t": "mysql"} {
		a, err := database.Parse(text)
		require.NoError(t, err)
		assert.Equal(t, scheme, a.Scheme, text)
	}
	for _, text := range []string{"pg://ann:secret@db/shop#t", "oracle://ann:secret@db/shop", "jdbc:mysql://ann:secret@db"} {
		require.True(t, database.IsAddress(text))
		_, err := database.Parse(text)
		require.ErrorContains(t, err, "is not a kind of database that Round Year knows")
		assert.NotContains(t, err.Error(), "secret")
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
		"postgres://ann:se%23cret@db/shop#sales":                      "postgres://ann@db/shop#sales",
		"mysql://ann:secret@db:3306/shop#SELECT a FROM b":             "mysql://ann@db:3306/shop#SELECT a FROM b",
		"postgres://db/shop?user=ann&password=secret#sales":           "postgres://db/shop?user=ann#sales",
		"postgres://db/shop?sslpassword=secret&sslmode=disable#sales": "postgres://db/shop?sslmode=disable#sales",
		"postgres://ann@db/shop?auth_token=secret#sales":              "postgres://ann@db/shop#sales",
	} {
		shown, had, err := database.Conceal(text)
		require.NoError(t, err)
		assert.NotContains(t, shown, "secret", text)
		assert.NotContains(t, shown, "sec ret", text)
		assert.NotContains(t, database.Shown(text), "secret", text)
		if want != "" {
			assert.Equal(t, want, shown)
			assert.True(t, had)
		}
	}
	// What may be part of a password is not shown, and the address is refused: without its password another one would be used.
	for _, password := range []string{"secret:with@signs", "sec ret", "se#cret", "p@ss/w0rd", "p@ss", "se?cret", "se[cret", "se%zzcret", "se/cret", "se/cr@t"} {
		text := "postgres://ann:" + password + "@db/shop#sales"
		shown, _, err := database.Conceal(text)
		require.Error(t, err, text)
		for _, said := range []string{shown, err.Error(), database.Shown(text)} {
			assert.Equal(t, -1, strings.Index(said, password[len(password)-3:]+"@"), "%s of %s", said, text)
			assert.NotContains(t, said, password[:2]+password[2:], said)
			assert.Contains(t, said, "postgres://ann@db/shop#sales")
		}
	}
	a, err := database.Parse("postgres://ann@db/shop#SELECT mail FROM people WHERE mail LIKE 'a:%@b'")
	require.NoError(t, err)
	assert.Equal(t, "SELECT mail FROM people WHERE mail LIKE 'a:%@b'", a.Table)
	shown, had, err := database.Conceal("clean/sales.csv")
	require.NoError(t, err)
	assert.Equal(t, "clean/sales.csv", shown)
	assert.False(t, had)
}
