package daylist

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"time"

	"roundyear/fault"
	"roundyear/internal/output"
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

// Shown is an address for people: without a password, and without what stands in
// its query, where many servers want a secret.
func Shown(address string) string {
	parsed, err := url.Parse(address)
	if err != nil {
		return "an address"
	}
	if parsed.User != nil {
		parsed.User = url.User(parsed.User.Username())
	}
	query := parsed.RawQuery != ""
	parsed.RawQuery, parsed.Fragment = "", ""
	if query {
		return parsed.String() + "?…"
	}
	return parsed.String()
}

// Kept is a list that was kept from an earlier run and used, since the server
// gave none.
type Kept struct {
	// At is when it was fetched, Why why the server gave none.
	At  time.Time
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

// Fetch fetches a list and has it parsed. A list that can be parsed is kept; when
// the server fails, or gives something else such as a page to log in, the one that
// was kept is parsed instead, and Kept tells of it. The error is a Fault when there
// is none.
func (f Fetcher) Fetch(ctx context.Context, address string, parse func([]byte) error) (*Kept, error) {
	content, err := f.get(ctx, address)
	if err == nil {
		if err = parse(content); err == nil {
			f.keep(address, content)
			return nil, nil
		}
	}
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	path := f.path(address)
	info, statErr := os.Stat(path)
	var problem *fault.Fault
	switch {
	case f.Folder != "" && statErr == nil:
	case errors.As(err, &problem):
		return nil, err
	default:
		return nil, &fault.Fault{File: Shown(address), What: "the list cannot be fetched, and there is no copy from an earlier run", Cause: err, Kind: fault.Unusable}
	}
	content, readErr := os.ReadFile(path)
	if readErr == nil {
		readErr = parse(content)
	}
	if readErr != nil {
		return nil, &fault.Fault{File: Shown(address), What: fmt.Sprintf("the list cannot be fetched (%v), and the copy from an earlier run cannot be read", err), Cause: readErr, Kind: fault.Unusable}
	}
	return &Kept{At: info.ModTime(), Why: err}, nil
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
		return nil, errors.New("the address must start with http:// or https://")
	}
	response, err := http.DefaultClient.Do(request)
	if err != nil {
		if errors.Is(err, context.DeadlineExceeded) {
			return nil, fmt.Errorf("the server did not answer within %s", timeout)
		}
		// The library's error has the address in it again, and what is secret there.
		var failed *url.Error
		if errors.As(err, &failed) {
			err = failed.Err
		}
		return nil, err
	}
	defer response.Body.Close()
	if response.StatusCode != http.StatusOK {
		return nil, fmt.Errorf("the server answered %s", response.Status)
	}
	content, err := io.ReadAll(io.LimitReader(response.Body, limit+1))
	switch {
	case errors.Is(err, context.DeadlineExceeded):
		return nil, fmt.Errorf("the server did not answer within %s", timeout)
	case err != nil:
		return nil, err
	case int64(len(content)) > limit:
		return nil, fmt.Errorf("the list is larger than %d MB", limit>>20)
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
