// Package database reads tables of databases on servers, and what their queries give. Nothing in them is changed: what reads only needs a
// role that may read.
package database

import (
	"errors"
	"fmt"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"time"

	"roundyear/fault"
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

// IsAddress tells an address from the path of a file.
func IsAddress(name string) bool {
	scheme, _, found := strings.Cut(name, "://")
	_, known := schemes[scheme]
	return found && known
}

// isQuery tells a query from the name of a table.
var isQuery = regexp.MustCompile(`(?is)^\s*(select|with|values)\b.*\W`)

// IsQuery tells whether the address is of a query.
func (a *Address) IsQuery() bool { return isQuery.MatchString(a.Table) }

// Parse reads an address such as postgres://user@host:5432/shop#sales.
func Parse(text string) (*Address, error) {
	base, table, _ := strings.Cut(text, "#")
	parsed, err := url.Parse(base)
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
	a := &Address{Scheme: schemes[parsed.Scheme], Table: table, url: parsed}
	if secret, ok := concealed.Load(a.server()); ok {
		parsed.User = url.UserPassword(parsed.User.Username(), secret.(string))
	}
	if strings.Trim(parsed.Path, "/") == "" {
		return nil, &fault.Fault{File: Shown(text), What: "names no database", Remedy: fmt.Sprintf("Write it as %s://user@host/database#table", a.Scheme)}
	}
	if err := a.readLimits(); err != nil {
		return nil, err
	}
	return a, nil
}

// concealed are the passwords of addresses, by what is shown of those.
var concealed sync.Map

// Conceal takes the password out of an address, so that it is never shown, and remembers it for the connection. It tells whether there was
// one. What is no address stays as it is.
func Conceal(text string) (shown string, hadPassword bool) {
	if !IsAddress(text) {
		return text, false
	}
	a, err := Parse(text)
	if err != nil {
		return Shown(text), false
	}
	secret, has := a.url.User.Password()
	if inQuery := a.url.Query().Get("password"); !has && inQuery != "" {
		secret, has = inQuery, true
	}
	if !has {
		return text, false
	}
	concealed.Store(a.server(), secret)
	_, table, found := strings.Cut(text, "#")
	if found {
		return a.server() + "#" + table, true
	}
	return a.server(), true
}

// Database returns the name of the database.
func (a *Address) Database() string { return strings.Trim(a.url.Path, "/") }

// String returns the address as it may be shown, without the password.
func (a *Address) String() string {
	text := a.server()
	if a.Table != "" {
		text += "#" + a.Table
	}
	return text
}

// server is the address without the table, as it may be shown.
func (a *Address) server() string {
	own := *a.url
	if _, has := own.User.Password(); has {
		own.User = url.User(own.User.Username())
	}
	if query := own.Query(); query.Has("password") {
		query.Del("password")
		own.RawQuery = query.Encode()
	}
	return own.String()
}

// password is what may be one in an address that cannot be read.
var password = regexp.MustCompile(`(?s)^([a-z]+://[^:/@]*):.*@`)

// inQuery is a password among the settings of an address.
var inQuery = regexp.MustCompile(`([?&]password=)[^&#]*`)

// Shown returns an address without a password, also one that cannot be read.
func Shown(text string) string {
	if !IsAddress(text) {
		return text
	}
	base, table, found := strings.Cut(text, "#")
	if at := strings.LastIndexByte(base, '@'); at >= 0 {
		base = password.ReplaceAllString(base[:at+1], "$1@") + base[at+1:]
	}
	base = inQuery.ReplaceAllString(base, "${1}…")
	if found {
		base += "#" + table
	}
	return base
}
