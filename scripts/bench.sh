#!/usr/bin/env bash
# bench.sh [ROWS]: whole runs on a large made-up file in memory, as ratios to counting its lines in the same run, and
# the same work in the sqlite3 shell. Needs Debian's packages hyperfine, sqlite3 and time.
set -euo pipefail
rows=${1:-2000000}
root=$(cd "$(dirname "$0")/.." && pwd)
work=$(mktemp -d -p /dev/shm)
trap 'rm -rf "$work"' EXIT
cd "$root"
go run ./scripts/bigfacts "$rows" >"$work/facts.csv"
program=$root/bin/roundyear
cat >"$work/convert.sql" <<SQL
.mode csv
.import $work/facts.csv facts
.headers on
.output $work/sqlite.csv
SELECT *, substr(sold_at, 7, 4) || '-' || substr(sold_at, 4, 2) || '-' || substr(sold_at, 1, 2) AS sold_at_date,
  substr(sold_at, 12) AS sold_at_time, substr(sold_at, 7, 4) || substr(sold_at, 4, 2) || substr(sold_at, 1, 2) AS sold_at_key
FROM facts;
SQL
cat >"$work/plan.yaml" <<YAML
roundyear: 1
calendars:
  fiscal: {months: {starts: february}, named_by: start}
  retail: {weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4}, named_by: start}
  legal: {months: {starts: 6 april}, year_label: "{start}/{end_yy}"}
YAML
echo "$rows rows, $(stat -c %s "$work/facts.csv") bytes, $(nproc) processors"
hyperfine --warmup 1 --runs 5 --export-csv "$work/times.csv" --style none \
  -n 'wc -l' "wc -l $work/facts.csv" \
  -n 'survey' "$program survey $work/facts.csv -q" \
  -n 'normalise' "$program normalise $work/facts.csv -q -o $work/out.csv" \
  -n 'totals by month and store' "$program totals $work/facts.csv --sum amount --count --by store -q -o $work/totals.csv" \
  -n 'build, 400 years, 3 calendars' "$program build -p $work/plan.yaml --from 1800-01-01 --to 2199-12-31 --columns all -q -o $work/dates.csv" >/dev/null
hyperfine --runs 2 --export-csv "$work/sqlite.times" --style none -n 'sqlite3: import, convert, export' "sqlite3 :memory: <$work/convert.sql" >/dev/null
tail -n 1 "$work/sqlite.times" >>"$work/times.csv"
awk -F, 'NR == 2 {base = $6} $1 == "normalise" {ours = $6} $1 ~ /^.?sqlite3/ {theirs = $6}
  NR > 1 {n = NF - 7; name = $1; for (i = 2; i <= n; i++) name = name "," $i; m = $(NF - 4); if (NR == 2) base = m
    if (name == "normalise") ours = m; if (name ~ /sqlite3/) theirs = m
    gsub("\"", "", name); printf "%-34s median %7.3f s, %6.1f times wc -l\n", name, m, m / base}
  END {printf "normalise is %.0f times as fast as the sqlite3 shell\n", theirs / ours}' "$work/times.csv"
for command in "survey $work/facts.csv" "normalise $work/facts.csv -o $work/out.csv" "build -p $work/plan.yaml --from 1800-01-01 --to 2199-12-31 --columns all -o $work/dates.csv"; do
  /usr/bin/time -f "${command%% *}: at most %M kB of memory" "$program" $command -q
done
