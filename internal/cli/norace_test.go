//go:build !race

package cli_test

// withRace tells that the tests run with the race detector.
const withRace = false
