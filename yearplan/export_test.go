package yearplan

// What tests from outside need of the reading of plans.
var (
	WeeksOf = weeksOf
)
