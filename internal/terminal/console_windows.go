package terminal

import (
	"os"

	"golang.org/x/sys/windows"
)

// Prepare makes the consoles among some streams understand colours, and returns what makes them as they were, and whether all of them do. Text
// needs no preparing: it goes to a console as UTF-16, whatever its code page is.
func Prepare(streams ...*os.File) (restore func(), hasColours bool) {
	type console struct {
		handle windows.Handle
		mode   uint32
	}
	var changed []console
	hasColours = true
	for _, stream := range streams {
		one := console{handle: windows.Handle(stream.Fd())}
		if windows.GetConsoleMode(one.handle, &one.mode) != nil || one.mode&windows.ENABLE_VIRTUAL_TERMINAL_PROCESSING != 0 {
			continue // no console, or one that does already
		}
		if windows.SetConsoleMode(one.handle, one.mode|windows.ENABLE_VIRTUAL_TERMINAL_PROCESSING) != nil {
			hasColours = false
			continue
		}
		changed = append(changed, one)
	}
	return func() {
		for _, one := range changed {
			_ = windows.SetConsoleMode(one.handle, one.mode)
		}
	}, hasColours
}
