package cli

import (
	"runtime/debug"
	"strings"
)

// version is that of a release, which its build sets.
var version = "development"

// versionText says which program this is: its version, and the commit that it was
// built from with its date, as far as the build knows them.
func versionText() string {
	text := "roundyear " + version
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return text
	}
	settings := map[string]string{}
	for _, setting := range info.Settings {
		settings[setting.Key] = setting.Value
	}
	if commit := settings["vcs.revision"]; commit != "" {
		text += ", commit " + commit[:min(len(commit), 12)]
		if settings["vcs.modified"] == "true" {
			text += " with changes"
		}
	}
	if date, _, found := strings.Cut(settings["vcs.time"], "T"); found {
		text += ", " + date
	}
	return text
}
