// Command roundyear makes time right in business data. See its --help.
package main

import (
	"os"

	"roundyear/internal/cli"
)

func main() { os.Exit(cli.Main()) }
