package app

import "sync"

// ManyGroups is told once when there are so many groups that they need much memory. Its zero value tells nobody.
type ManyGroups struct {
	// Tell is told; nil for nobody.
	Tell func()
	once sync.Once
}

// manyGroups is how many groups are many, and groupMemory how many megabytes a million of them need at least.
const (
	manyGroups  = 1_000_000
	GroupMemory = 600
)

// see looks at how many groups a worker has met, of which there are two and more.
func (m *ManyGroups) see(groups int) {
	if m.Tell != nil && groups >= manyGroups/2 {
		m.once.Do(m.Tell)
	}
}
