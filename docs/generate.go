// Package docs holds the guide and the reference, and tests that their examples
// match the program.
package docs

//go:generate go run ../scripts/reference .
