package cli_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Flags that exclude each other, or mean nothing alone, are refused by both their names, and nothing is written.
func TestFlagsThatDoNotGoTogether(t *testing.T) {
	files := map[string]string{"s.csv": "sold,n,shop\n2026-01-05,1,a\n"}
	folder := folderWith(t, files)
	for call, want := range map[string]string{
		"totals s.csv --count --header --no-header":                                    "--header and --no-header",
		"build --cover s.csv:sold --exact --whole-years":                               "--exact and --whole-years",
		"build --fiscal-end 3 --fiscal-start 4":                                        "--fiscal-start and --fiscal-end",
		"totals s.csv --count --at IE --at-column shop":                                "--at and --at-column",
		"allocate s.csv --sum n --at-column shop --at IE":                              "--at and --at-column",
		"lapse s.csv --start sold --end sold --previous":                               "--end and --previous",
		"lapse s.csv --start sold --bands 1 --band a=0..5":                             "--bands and --band",
		"lapse s.csv --start sold --add-days 1 --add-months 2":                         "--add-days and --add-months",
		"lapse s.csv --start sold --add-months 1 --add-workdays 1 --add-days 2":        "--add-days, --add-workdays and --add-months",
		"normalise s.csv --partition-by sold_date -o x --append --replace":             "--append and --replace",
		"normalise s.csv --partition-by sold_date -o x --replace-partitions --replace": "--replace-partitions and --replace",
		"normalise s.csv --partition-by sold_date -o x --sort n":                       "--sort and --partition-by",
		"build --clock 1h --trading":                                                   "--clock and --trading",
		"census s.csv --opened sold --closed sold --cohort --rows":                     "--cohort and --rows",
		"totals s.csv --count --to-date --running year":                                "--to-date and --running",
		"totals s.csv --count --to-date --complete-only":                               "--to-date and --complete-only",
		"days-off IE --year 2026 --from 2026-01-01":                                    "--year and --from",
		"days-off IE --year 2026 --to 2026-01-01":                                      "--year and --to",
		"totals s.csv --count --explain 2026-01 -o x.csv":                              "--explain and --out",
		"totals s.csv --count --explain 2026-01 --format csv":                          "--explain and --format",
		"latest s.csv --count --json -o x.csv":                                         "--json and --out",
		"latest s.csv --count --json --format csv":                                     "--json and --format",
		"totals s.csv --count --plan p.yaml --no-plan":                                 "--plan and --no-plan",
		"normalise s.csv -o x.csv --append":                                            "--append goes with --partition-by",
		"normalise s.csv -o x.csv --replace-partitions":                                "--replace-partitions goes with --partition-by",
		"normalise s.csv -o x.csv --replace":                                           "--replace goes with --partition-by",
		"normalise s.csv -o x.csv --keep-partition":                                    "--keep-partition goes with --partition-by",
		"totals s.csv --count --budget-date sold":                                      "--budget-date goes with --budget",
		"totals s.csv --count --budget-of month":                                       "--budget-of goes with --budget",
		"totals s.csv --count --budget-over workdays":                                  "--budget-over goes with --budget",
		"totals s.csv --count --partial-windows":                                       "--partial-windows goes with --rolling",
		"lapse s.csv --start sold --end sold --distribution":                           "--distribution goes with --bands or --band",
	} {
		refused := run(t, folder, strings.Fields(call)...)
		assert.Equal(t, 2, refused.code, call)
		if !strings.Contains(want, " goes with ") {
			want += " cannot be combined"
		}
		command, _, _ := strings.Cut(call, " ")
		assert.Equal(t, "roundyear: "+want+"\nSee roundyear "+command+" --help\n", refused.err, call)
		assert.Equal(t, files, contents(t, folder), call)
	}
}
