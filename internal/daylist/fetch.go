package daylist

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"time"

	"roundyear/internal/output"
	"roundyear/internal/table"
)

// The bounds of what is fetched: how long a server may take, and how many bytes
// a list may have.
const (
	fetchTimeout = 20 * time.Second
	fetchLimit   = 10 << 20
)

// IsAddress tells whether a path is one of the web.
func IsAddress(path string) bool {
	return strings.HasPrefix(path, "http://") || strings.HasPrefix(path, "https://")
}

// Fetched is a list from the web.
type Fetched struct {
	Content []byte
	// Old tells that the server gave nothing and the list is one that was kept,
	// from the time At.
	Old bool
	At  time.Time
	// Why is why the server gave nothing.
	Why error
}

// Fetcher fetches lists and keeps them in a folder, so that a run without a
// network still has them.
type Fetcher struct {
	// Folder is where lists are kept; nothing is kept when it is empty.
	Folder string
	// Timeout and Limit are the bounds; 0 for the usual ones.
	Timeout time.Duration
	Limit   int64
}

// Fetch returns a list by its address. When the server fails it is the one that
// was kept; the error is a Fault when there is none.
func (f Fetcher) Fetch(ctx context.Context, address string) (*Fetched, error) {
	content, err := f.get(ctx, address)
	if err == nil {
		f.keep(address, content)
		return &Fetched{Content: content, At: time.Now()}, nil
	}
	path := f.path(address)
	info, statErr := os.Stat(path)
	if f.Folder == "" || statErr != nil {
		return nil, &table.Fault{File: address, What: "the days off cannot be fetched, and none were kept from before", Cause: err, Outside: true}
	}
	content, readErr := os.ReadFile(path)
	if readErr != nil {
		return nil, &table.Fault{File: address, What: "the days off cannot be fetched, nor those read that were kept", Cause: readErr, Outside: true}
	}
	return &Fetched{Content: content, Old: true, At: info.ModTime(), Why: err}, nil
}

func (f Fetcher) get(ctx context.Context, address string) ([]byte, error) {
	timeout, limit := f.Timeout, f.Limit
	if timeout == 0 {
		timeout = fetchTimeout
	}
	if limit == 0 {
		limit = fetchLimit
	}
	ctx, cancel := context.WithTimeout(ctx, timeout)
	defer cancel()
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return nil, err
	}
	response, err := http.DefaultClient.Do(request)
	if err != nil {
		if errors.Is(err, context.DeadlineExceeded) {
			return nil, fmt.Errorf("the server took longer than %s", timeout)
		}
		return nil, err
	}
	defer response.Body.Close()
	if response.StatusCode != http.StatusOK {
		return nil, fmt.Errorf("the server says %s", response.Status)
	}
	content, err := io.ReadAll(io.LimitReader(response.Body, limit+1))
	switch {
	case errors.Is(err, context.DeadlineExceeded):
		return nil, fmt.Errorf("the server took longer than %s", timeout)
	case err != nil:
		return nil, err
	case int64(len(content)) > limit:
		return nil, fmt.Errorf("the list has more than %d MB", limit>>20)
	}
	return content, nil
}

func (f Fetcher) path(address string) string {
	return filepath.Join(f.Folder, fmt.Sprintf("%x", sha256.Sum256([]byte(address)))[:32])
}

// keep puts a list away for a run without network. That it cannot be kept is no
// fault of the run.
func (f Fetcher) keep(address string, content []byte) {
	if f.Folder == "" || os.MkdirAll(f.Folder, 0o777) != nil {
		return
	}
	run := output.NewRun(context.Background())
	defer run.Abort()
	out, err := run.Create(f.path(address))
	if err != nil {
		return
	}
	if _, err := out.Write(content); err == nil {
		_ = run.Commit()
	}
}
