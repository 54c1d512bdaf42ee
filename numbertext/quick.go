package numbertext

// quick takes apart what most numbers are: digits with at most one point or comma among them, which shows the decimal mark, and
// perhaps a minus before them. It is false for all others, and for those that are written otherwise when they are plain.
func quick(text []byte) (mark Mark, at int, ok bool) {
	digits := text
	if len(digits) > 0 && digits[0] == '-' {
		digits = digits[1:]
	}
	at = -1
	for i, c := range digits {
		switch {
		case c >= '0' && c <= '9':
		case (c == '.' || c == ',') && at < 0:
			at = i
		default:
			return Unsettled, 0, false
		}
	}
	before, after := len(digits), 0
	if at >= 0 {
		before, after = at, len(digits)-at-1
	}
	switch {
	case before == 0 || before > 1 && digits[0] == '0':
		return Unsettled, 0, false
	case at < 0:
		return Unsettled, -1, true
	case after == 0 || after == 3 && before <= 3 && digits[0] != '0':
		return Unsettled, 0, false
	}
	return Mark(digits[at]), at + len(text) - len(digits), true
}
