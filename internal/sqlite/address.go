package sqlite

import (
	"net/url"
	"path/filepath"
	"strings"
)

// Address is how the engine is asked for the file of an absolute path, with settings. A path with a drive gets a slash before it, which the
// engine takes off again; one of a server has two already.
func Address(absolute, settings string) string {
	path := filepath.ToSlash(absolute)
	if !strings.HasPrefix(path, "/") {
		path = "/" + path
	}
	address := url.URL{Scheme: "file", Path: path, RawQuery: settings}
	return address.String()
}
