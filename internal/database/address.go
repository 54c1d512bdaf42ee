// Package database reads tables of databases on servers, and what their queries give. Nothing in them is changed: what reads only needs a
// role that may read.
package database

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"time"

	"roundyear/fault"
	"roundyear/internal/dialect"
)

// Address says where a table is: a server, a database, and a table of it or a query.
type Address struct {
	// Scheme is that of the server: postgres or mysql.
	Scheme string
	// Table is the name of a table, which may have that of a schema before it, or a query.
	Table string
	url   *url.URL
	// limit is how long a statement may take, and lockWait how long to wait for a lock; 0 for any time.
	limit, lockWait time.Duration
}

// schemes are those of addresses, and of which server they are.
var schemes = map[string]string{"postgres": "postgres", "postgresql": "postgres", "mysql": "mysql", "mariadb": "mysql"}

// schemeOf is the beginning of an address.
var schemeOf = regexp.MustCompile(`^((?:[A-Za-z][A-Za-z0-9+.-]*:)?[A-Za-z][A-Za-z0-9+.-]*)://`)

// IsAddress tells an address from the path of a file. What begins like an address of a kind that is not known is one, too, so that it is
// refused as such; addresses of pages on the web are none.
func IsAddress(name string) bool {
	parts := schemeOf.FindStringSubmatch(name)
	return parts != nil && !strings.EqualFold(parts[1], "http") && !strings.EqualFold(parts[1], "https")
}

// IsKnown tells whether an address is of a kind of database that is known.
func IsKnown(address string) bool {
	parts := schemeOf.FindStringSubmatch(address)
	return parts != nil && schemes[strings.ToLower(parts[1])] != ""
}

// IsOfWeb tells whether a name is the address of a page on the web.
func IsOfWeb(name string) bool { return schemeOf.MatchString(name) && !IsAddress(name) }

// isQuery tells a query from the name of a table.
var isQuery = regexp.MustCompile(`(?is)^\s*(select|with|values)\b.*\W`)

// IsQuery tells whether the address is of a query.
func (a *Address) IsQuery() bool { return isQuery.MatchString(a.Table) }

// dialect is the SQL of the server.
func (a *Address) dialect() *dialect.Dialect {
	if a.Scheme == "mysql" {
		return dialect.MySQL
	}
	return dialect.Postgres
}

// Parse reads an address such as postgres://user@host:5432/shop#sales.
func Parse(text string) (*Address, error) {
	scheme := ""
	if parts := schemeOf.FindStringSubmatch(text); parts != nil {
		scheme = strings.ToLower(parts[1])
	}
	kind, isKnown := schemes[scheme]
	if !isKnown {
		return nil, &fault.Fault{File: Shown(text), What: fmt.Sprintf("%q is not a kind of database that Round Year knows", scheme), Remedy: "Write the address as postgres://user@host/database#table or mysql://user@host/database#table"}
	}
	base, table, _ := strings.Cut(text, "#")
	parsed, err := url.Parse(base)
	if hasOpenPassword(base, table, parsed, err) {
		return nil, &fault.Fault{File: Shown(text), What: "contains a password that cannot be told from the rest of the address", Remedy: "Write special characters in it as %23 for #, %2F for /, %3F for ?, %40 for @, %25 for %, or give the password by PGPASSWORD or MYSQL_PWD"}
	}
	if err != nil {
		var of *url.Error
		if errors.As(err, &of) {
			err = of.Err // without the address, which may have a password in it
		}
		return nil, &fault.Fault{File: Shown(text), What: "is not an address of a database", Cause: err, Remedy: "Write it as postgres://user@host:5432/database#table"}
	}
	if unescaped, err := url.PathUnescape(table); err == nil && !isQuery.MatchString(table) {
		table = unescaped
	}
	a := &Address{Scheme: kind, Table: table, url: parsed}
	if secret, ok := concealed.Load(a.server()); ok {
		whole := secret.(*url.URL)
		parsed.User, parsed.RawQuery = whole.User, whole.RawQuery
	}
	if strings.Trim(parsed.Path, "/") == "" {
		return nil, &fault.Fault{File: Shown(text), What: "names no database", Remedy: fmt.Sprintf("Write it as %s://user@host/database#table", a.Scheme)}
	}
	if err := a.readLimits(); err != nil {
		return nil, err
	}
	return a, nil
}

// hasOpenPassword tells whether an address seems to have a password with characters in it that end a password: then an @ stands behind what
// would be the server, or behind the # of a table that follows on something that is no server.
func hasOpenPassword(base, table string, parsed *url.URL, err error) bool {
	_, rest, _ := strings.Cut(base, "://")
	authority := rest
	if end := strings.IndexAny(rest, "/?"); end >= 0 {
		authority = rest[:end]
	}
	switch {
	case strings.Count(authority, "@") > 1:
		return true
	case err != nil:
		if user, _, isWhole := strings.Cut(authority, "@"); isWhole {
			_, err = url.Parse("x://" + user + "@x") // the fault may be elsewhere
			return err != nil
		}
		return strings.Contains(authority, ":") && strings.Contains(base+table, "@")
	case strings.Contains(parsed.Path, "@"):
		return true
	}
	return !strings.Contains(authority, "@") && strings.Contains(authority, ":") && parsed.Path == "" && strings.Contains(rest+table, "@")
}

// concealed are whole addresses, by what is shown of them.
var concealed sync.Map

// Conceal takes the secrets out of an address, so that they are never shown, and remembers them for the connection. It tells whether there
// were any. What is no address stays as it is; the error is that of an address that cannot be read.
func Conceal(text string) (shown string, hadSecret bool, err error) {
	if !IsAddress(text) {
		return text, false, nil
	}
	a, err := Parse(text)
	if err != nil {
		return Shown(text), false, err
	}
	whole := *a.url
	query := whole.Query()
	if secret, has := query["password"]; has {
		if _, inFront := whole.User.Password(); !inFront {
			whole.User = url.UserPassword(cmp.Or(whole.User.Username(), query.Get("user")), secret[0])
		}
		query.Del("password")
		whole.RawQuery = query.Encode()
	}
	server := a.server()
	if _, has := whole.User.Password(); !has && server == a.url.String() {
		return text, false, nil
	}
	concealed.Store(server, &whole)
	_, table, found := strings.Cut(text, "#")
	if found {
		return server + "#" + table, true, nil
	}
	return server, true, nil
}

// Database returns the name of the database.
func (a *Address) Database() string { return strings.Trim(a.url.Path, "/") }

// String returns the address as it may be shown, without its secrets.
func (a *Address) String() string {
	text := a.server()
	if a.Table != "" {
		text += "#" + a.Table
	}
	return text
}

// isSecret tells whether a setting of an address is one that nobody is shown.
func isSecret(setting string) bool {
	setting = strings.ToLower(setting)
	for _, part := range []string{"password", "passwd", "pwd", "secret", "token", "passphrase", "apikey", "api_key"} {
		if strings.Contains(setting, part) {
			return true
		}
	}
	return false
}

// userOf is what stands before the password of a user, also where the colon between them is written as %3A.
func userOf(text string) string { return text[:len(text)-len(passwordOf.FindString(text))] }

var passwordOf = regexp.MustCompile(`(?is)(:|%3a).*$`)

// server is the address without the table, as it may be shown.
func (a *Address) server() string {
	own := *a.url
	if own.User != nil {
		own.User = url.User(userOf(own.User.Username()))
	}
	query := own.Query()
	before := len(query)
	maps.DeleteFunc(query, func(setting string, _ []string) bool { return isSecret(setting) })
	if len(query) < before {
		own.RawQuery = query.Encode()
	}
	return own.String()
}

// inQuery is a setting among those of an address.
var inQuery = regexp.MustCompile(`([?&])([^=&#?]*)=([^&#]*)`)

// Shown returns an address without its secrets, also one that cannot be read: of that all is cut that may be a password.
func Shown(text string) string {
	parts := schemeOf.FindStringSubmatchIndex(text)
	if parts == nil {
		return text
	}
	scheme, rest := text[:parts[1]], text[parts[1]:]
	base, table, found := strings.Cut(rest, "#")
	if parsed, err := url.Parse(scheme + base); hasOpenPassword(scheme+base, table, parsed, err) {
		base, table, _ = strings.Cut(rest[strings.LastIndexByte(rest, '@')+1:], "#")
		before := userOf(rest)
		base, found = before+"@"+base, table != ""
	} else if at := strings.LastIndexByte(base, '@'); at >= 0 {
		base = userOf(base[:at]) + base[at:]
	}
	base = inQuery.ReplaceAllStringFunc(base, func(setting string) string {
		name, _, _ := strings.Cut(setting[1:], "=")
		if isSecret(name) {
			return setting[:1] + name + "=…"
		}
		return setting
	})
	if found {
		base += "#" + table
	}
	return scheme + base
}
