// Package docs holds the guide and the reference, and tests that their examples
// say the truth.
package docs

//go:generate go run ../scripts/reference .
