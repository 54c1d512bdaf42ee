package calendar_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
)

// javaWeeks prints, for each week rule and year, a hash over the week years and
// weeks that java.time.temporal.WeekFields gives its days.
const javaWeeks = `
import java.time.*;
import java.time.temporal.*;

public class Weeks {
    public static void main(String[] args) {
        for (int first = 1; first <= 7; first++)
            for (int minimal = 1; minimal <= 7; minimal++) {
                WeekFields fields = WeekFields.of(DayOfWeek.of(first), minimal);
                TemporalField week = fields.weekOfWeekBasedYear(), year = fields.weekBasedYear();
                for (int y = 1900; y <= 2200; y++) {
                    long hash = 0;
                    for (LocalDate d = LocalDate.of(y, 1, 1); d.getYear() == y; d = d.plusDays(1))
                        hash = hash * 31 + d.get(year) * 100 + d.get(week);
                    System.out.println(first + " " + minimal + " " + y + " " + hash);
                }
            }
    }
}
`

// Every rule of weeks from 1900 to 2200 agrees with Java's, where Java is.
func TestWeekRulesAgreeWithJava(t *testing.T) {
	java, err := exec.LookPath("java")
	if err != nil {
		t.Skip("there is no java on this machine")
	}
	source := filepath.Join(t.TempDir(), "Weeks.java")
	require.NoError(t, os.WriteFile(source, []byte(javaWeeks), 0o666))
	output, err := exec.Command(java, source).Output()
	if err != nil {
		t.Skipf("java cannot run a source file: %v", err)
	}
	lines := strings.Split(strings.TrimSpace(string(output)), "\n")
	require.Len(t, lines, 49*301)
	for first := civil.Monday; first <= civil.Sunday; first++ {
		for minDays := 1; minDays <= 7; minDays++ {
			weeks, err := calendar.NewWeeks(calendar.WeekRule{first, minDays})
			require.NoError(t, err)
			for year := 1900; year <= 2200; year++ {
				var hash int64
				for d := civil.FirstOfYear(year); d < civil.FirstOfYear(year+1); d++ {
					week := weeks.Locate(calendar.Week, d)
					hash = hash*31 + int64(week.Year)*100 + int64(week.InYear)
				}
				require.Equal(t, lines[0], fmt.Sprintf("%d %d %d %d", first, minDays, year, hash))
				lines = lines[1:]
			}
		}
	}
}
