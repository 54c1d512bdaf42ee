package decimal

// ParseAny is the long way of Parse.
var ParseAny = parseAny
