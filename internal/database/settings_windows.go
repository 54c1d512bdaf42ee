package database

import (
	"os"
	"path/filepath"
)

// PostgresPasswords and MySQLSettings are the files of the user that have passwords, as they are told.
const (
	PostgresPasswords = `%APPDATA%\postgresql\pgpass.conf`
	MySQLSettings     = `%USERPROFILE%\.my.cnf`
)

// clientFiles are the files with settings of clients of MariaDB and MySQL, in the order in which their clients read them (MariaDB, Configuring
// MariaDB with Option Files), and that of the user; later ones come before earlier ones.
func clientFiles() (files []string) {
	for _, folder := range []string{os.Getenv("WINDIR"), `C:\`} {
		if folder != "" {
			files = append(files, filepath.Join(folder, "my.ini"), filepath.Join(folder, "my.cnf"))
		}
	}
	if home, err := os.UserHomeDir(); err == nil {
		files = append(files, filepath.Join(home, ".my.cnf"))
	}
	return files
}
