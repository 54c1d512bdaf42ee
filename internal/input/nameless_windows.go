package input

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"

	"golang.org/x/sys/windows"
)

// createNameless creates a temporary file that the system removes when it is closed, so that nothing is left of it however the run ends.
func createNameless() (*os.File, error) {
	return os.OpenFile(filepath.Join(os.TempDir(), fmt.Sprintf("roundyear-%016x", rand.Uint64())), os.O_RDWR|os.O_CREATE|os.O_EXCL|windows.O_FILE_FLAG_DELETE_ON_CLOSE, 0o600)
}
