//go:build unix

package database

import (
	"os"
	"path/filepath"
)

// PostgresPasswords and MySQLSettings are the files of the user that have passwords, as they are told.
const (
	PostgresPasswords = "~/.pgpass"
	MySQLSettings     = "~/.my.cnf"
)

// clientFiles are the files with settings of clients of MariaDB and MySQL; later ones come before earlier ones.
func clientFiles() []string {
	home, err := os.UserHomeDir()
	if err != nil {
		return nil
	}
	return []string{filepath.Join(home, ".my.cnf")}
}
