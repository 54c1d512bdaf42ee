package check

// Count is the number of facts.
func (f *Facts) Counted() int { return f.count }
