package calendar

import "fmt"

// Setting is a part of the description of a fiscal calendar.
type Setting int

// The settings that a SettingError can be about.
const (
	StartDay Setting = iota + 1
	NearestDate
	LeapWeek
)

// SettingError tells which setting of a description is wrong.
type SettingError struct {
	Setting Setting
	what    string
}

// Error says what the setting must be.
func (e *SettingError) Error() string { return e.what }

func settingError(setting Setting, format string, args ...any) error {
	return &SettingError{setting, fmt.Sprintf(format, args...)}
}
