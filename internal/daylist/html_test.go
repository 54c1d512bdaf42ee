package daylist

import (
	"context"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const page = `<html><body><table><caption>Menu</caption><tr><td>Home</td></tr></table>
<table><caption>Bank holidays <b>2026</b></caption>
<thead><tr><th>Date</th><th>Name<sup>1</sup></th><th>Note</th></tr></thead>
<tbody><tr><td rowspan=2>1 January</td><td>New<br>Year</td><td></td></tr>
<tr><td>Second name</td><td>x</td></tr>
<tr><td>5 May</td><td colspan=2>Fair</td></tr>
<tr><td>6 May</td><td>Inner <table><tr><td>Date</td><td>Name</td></tr><tr><td>1</td><td>2</td></tr></table></td></tr></tbody></table></body></html>`

func TestTablesOfAPage(t *testing.T) {
	tables, err := Tables([]byte(page))
	require.NoError(t, err)
	require.Len(t, tables, 3)
	assert.Equal(t, "Bank holidays 2026", tables[1].Caption)
	assert.Equal(t, [][]string{{"Date", "Name", "Note"}, {"1 January", "New Year", ""}, {"1 January", "Second name", "x"}, {"5 May", "Fair", "Fair"}, {"6 May", "Inner Date Name 1 2"}}, tables[1].Rows)
	for wish, want := range map[string]int{"2": 1, "bank": 1, "note": 1, "3": 2} {
		picked, err := PickTable("p", tables, wish, "Date", "Name")
		require.NoError(t, err, wish)
		assert.Equal(t, tables[want], picked)
	}
	for wish, fault := range map[string]string{
		"4":    `p: the page has no table 4: 1 "Menu" (Home); 2 "Bank holidays 2026" (Date, Name, Note); 3 (Date, Name)`,
		"":     "2 tables of the page could be meant",
		"fair": "no table of the page has the columns",
	} {
		_, err := PickTable("p", tables, wish, "Date", "Name")
		assert.ErrorContains(t, err, fault, wish)
	}
	none, err := Tables([]byte("<p>nothing"))
	require.NoError(t, err)
	_, err = PickTable("p", none, "", "Date", "Name")
	assert.ErrorContains(t, err, "p: the page has no table")
}

func TestListsInJSON(t *testing.T) {
	list, err := ReadJSON("l.json", []byte(`[{"date":"2026-01-05","name":"A"},{"name":"B","date":"2026-01-06","kind":null}]`))
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"date", "kind", "name"}, {"2026-01-05", "", "A"}, {"2026-01-06", "", "B"}}, list.Rows)
	_, err = ReadJSON("l.json", []byte(`{"a":1}`))
	assert.ErrorContains(t, err, "l.json: is no JSON list of objects")
}

// A server of the tests stands in for the web.
func TestListsOfTheWeb(t *testing.T) {
	var mode atomic.Value
	mode.Store("good")
	release := make(chan struct{})
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch mode.Load() {
		case "good":
			_, _ = w.Write([]byte("date,name\n2026-01-05,A\n"))
		case "missing":
			http.NotFound(w, r)
		case "long":
			_, _ = w.Write([]byte(strings.Repeat("x", 3<<20)))
		case "hangs":
			select {
			case <-release:
			case <-r.Context().Done():
			}
		}
	}))
	defer server.Close()
	defer close(release)
	f := Fetcher{Folder: t.TempDir(), Timeout: 200 * time.Millisecond, Limit: 1 << 20}
	for _, c := range []struct{ mode, fault string }{
		{"missing", "the server says 404 Not Found"}, {"long", "the list has more than 1 MB"}, {"hangs", "the server took longer than 200ms"},
	} {
		mode.Store(c.mode)
		_, err := f.Fetch(context.Background(), server.URL+"/a.csv")
		assert.ErrorContains(t, err, c.fault)
		assert.ErrorContains(t, err, "cannot be fetched, and none were kept from before")
	}
	mode.Store("good")
	fetched, err := f.Fetch(context.Background(), server.URL+"/a.csv")
	require.NoError(t, err)
	assert.False(t, fetched.Old)
	for _, broken := range []string{"missing", "long", "hangs"} {
		mode.Store(broken)
		kept, err := f.Fetch(context.Background(), server.URL+"/a.csv")
		require.NoError(t, err)
		assert.True(t, kept.Old)
		assert.Equal(t, fetched.Content, kept.Content)
		assert.Error(t, kept.Why)
		assert.WithinDuration(t, time.Now(), kept.At, time.Minute)
	}
	assert.True(t, IsAddress(server.URL))
	assert.False(t, IsAddress("closures.csv"))
}
