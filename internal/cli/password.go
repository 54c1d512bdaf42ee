package cli

import (
	"context"
	"fmt"
	"os"

	"golang.org/x/term"

	"roundyear/internal/terminal"
)

// askPassword asks for the password of an address at the terminal, which does not show it.
func (a *App) askPassword(ctx context.Context, address string) (string, error) {
	in := int(os.Stdin.Fd())
	before, err := term.GetState(in)
	if err != nil {
		return "", err
	}
	fmt.Fprintf(a.stderr, "Password for %s: ", terminal.Clean(address))
	type answer struct {
		text []byte
		err  error
	}
	answered := make(chan answer, 1)
	go func() {
		text, err := term.ReadPassword(in)
		answered <- answer{text, err}
	}()
	select {
	case got := <-answered:
		fmt.Fprintln(a.stderr)
		return string(got.text), got.err
	case <-ctx.Done():
		_ = term.Restore(in, before) // so that the terminal shows again what is typed
		fmt.Fprintln(a.stderr)
		return "", ctx.Err()
	}
}
