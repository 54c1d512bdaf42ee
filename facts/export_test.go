package facts

// GapNames are the names of gaps, by gap.
var GapNames = gapNames
