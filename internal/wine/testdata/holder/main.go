// Holder opens a file as another program on Windows would, with what it lets others do meanwhile, says so, and lets go when its input ends:
// holder FILE SHARE, where SHARE is none, read, write or all. With "short" it prints the file's short name instead.
package main

import (
	"fmt"
	"io"
	"os"

	"golang.org/x/sys/windows"
)

func main() {
	name, err := windows.UTF16PtrFromString(os.Args[1])
	end(err)
	if os.Args[2] == "short" {
		letters := make([]uint16, windows.MAX_LONG_PATH)
		n, err := windows.GetShortPathName(name, &letters[0], uint32(len(letters)))
		end(err)
		fmt.Println(windows.UTF16ToString(letters[:n]))
		return
	}
	share := map[string]uint32{"none": 0, "read": windows.FILE_SHARE_READ, "write": windows.FILE_SHARE_READ | windows.FILE_SHARE_WRITE,
		"all": windows.FILE_SHARE_READ | windows.FILE_SHARE_WRITE | windows.FILE_SHARE_DELETE}[os.Args[2]]
	_, err = windows.CreateFile(name, windows.GENERIC_READ, share, nil, windows.OPEN_EXISTING, 0, 0)
	end(err)
	fmt.Println("held")
	_, _ = io.Copy(io.Discard, os.Stdin)
}

func end(err error) {
	if err != nil {
		fmt.Println(err)
		os.Exit(1)
	}
}
