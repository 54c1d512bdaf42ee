#!/usr/bin/env bash
# bench.sh [ROWS]: whole runs on a large generated file in memory, each as a ratio to the floor: a bare program that looks
# at every byte of the file once on the same processors (scripts/floor). The commands take turns, five times, and the
# medians count. With SQLITE=1 the same work in the sqlite3 shell, too. Needs Debian's package time, and sqlite3 for that.
set -euo pipefail
rows=${1:-2000000}
root=$(cd "$(dirname "$0")/.." && pwd)
work=$(mktemp -d -p /dev/shm)
trap 'rm -rf "$work"' EXIT
cd "$root"
go build -o "$work/floor" ./scripts/floor
go run ./scripts/bigfacts "$rows" >"$work/facts.csv"
go run ./scripts/bigfacts "$rows" parquet >"$work/facts.parquet"
program=$root/bin/roundyear
echo "$rows rows, $(stat -c %s "$work/facts.csv") bytes, $(nproc) processors, the program has $(stat -c %s "$program") bytes"
cat >"$work/plan.yaml" <<YAML
roundyear: 1
calendars:
  fiscal: {months: {starts: february}, named_by: start}
  retail: {weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4}, named_by: start}
  legal: {months: {starts: 6 april}, year_label: "{start}/{end_yy}"}
YAML
go run ./scripts/bigfacts 200000 >"$work/sheet.csv"
"$program" normalise "$work/sheet.csv" --no-plan -q -o "$work/sheet.xlsx"
go run ./scripts/bigspans $((rows / 2)) >"$work/spans.csv"
names=(floor-scan floor-copy survey normalise to-parquet partitions totals totals-fiscal compared by-days latest of-parquet of-xlsx fill build spans-scan spans-copy census lapse)
declare -A command=(
  [floor-scan]="$work/floor scan $work/facts.csv"
  [floor-copy]="$work/floor copy $work/facts.csv $work/copy.csv"
  [survey]="$program survey $work/facts.csv -q"
  [normalise]="$program normalise $work/facts.csv -q -o $work/out.csv"
  [to-parquet]="$program normalise $work/facts.csv -q -o $work/out.parquet"
  [partitions]="$program normalise $work/facts.csv -q --partition-by month_key --format parquet -o $work/lake"
  [of-parquet]="$program totals $work/facts.parquet --date sold_at --sum amount --count --by store -q -o $work/totals.csv"
  [of-xlsx]="$program totals $work/sheet.xlsx --date sold_at_date --count --by store -q -o $work/totals.csv"
  [totals]="$program totals $work/facts.csv --sum amount --count --by store -q -o $work/totals.csv"
  [totals-fiscal]="$program totals $work/facts.csv --sum amount --count --by store --grain fiscal.month --fiscal-start february --as-of 2026-03-15 -q -o $work/totals.csv"
  [compared]="$program totals $work/facts.csv --sum amount --count --by store --grain fiscal.month --fiscal-start february --against previous,year-ago --to-date --share period --as-of 2026-03-15 -q -o $work/totals.csv"
  [by-days]="$program totals $work/facts.csv --sum amount --count --by store --grain fiscal.month --fiscal-start february --against year-ago,same-weekday-year-ago --align easter --to-date --subtotals --rolling 28d --as-of 2026-03-15 -q -o $work/totals.csv"
  [latest]="$program latest $work/facts.csv --sum amount --count --by store -q -o $work/latest.csv"
  [fill]="$program fill $work/facts.csv --sum amount --count --by store,department --grain day -q -o $work/fill.csv"
  [spans-scan]="$work/floor scan $work/spans.csv"
  [spans-copy]="$work/floor copy $work/spans.csv $work/copy.csv"
  [census]="$program census $work/spans.csv --opened opened --closed closed --by team --grain day --as-of 2025-12-31 -q -o $work/census.csv"
  [lapse]="$program lapse $work/spans.csv --start opened --end closed --in workdays -q -o $work/lapse.csv"
  [build]="$program build -p $work/plan.yaml --from 1800-01-01 --to 2199-12-31 --columns all -q -o $work/dates.csv"
)
for run in 0 1 2 3 4 5; do # run 0 warms up
  for name in "${names[@]}"; do
    /usr/bin/time -a -o "$work/times" -f "$run $name %e %M" ${command[$name]} 2>/dev/null
  done
done
awk '$1 > 0 {n[$2]++; t[$2, n[$2]] = $3; if ($4 > mem[$2]) mem[$2] = $4; if (!($2 in order)) {order[$2] = ++count; name[count] = $2}}
  function median(what, i, j, x, v) {
    for (i = 1; i <= n[what]; i++) v[i] = t[what, i]
    for (i = 1; i < n[what]; i++) for (j = i + 1; j <= n[what]; j++) if (v[j] < v[i]) {x = v[i]; v[i] = v[j]; v[j] = x}
    return v[int((n[what] + 1) / 2)]
  }
  END {
    for (i = 1; i <= count; i++) {
      floor = name[i] ~ "^(normalise|to-parquet|partitions)$" ? "floor-copy" : "floor-scan"
      if (name[i] ~ "^(spans-scan|spans-copy|census)$") floor = "spans-scan"
      if (name[i] == "lapse") floor = "spans-copy"
      printf "%-12s median %7.2f s, %6.1f times %s, at most %d kB\n", name[i], median(name[i]), median(name[i]) / median(floor), floor, mem[name[i]]
    }
  }' "$work/times"
[ -z "${SQLITE:-}" ] && exit
cat >"$work/convert.sql" <<SQL
.mode csv
.import $work/facts.csv facts
.headers on
.output $work/sqlite.csv
SELECT *, substr(sold_at, 7, 4) || '-' || substr(sold_at, 4, 2) || '-' || substr(sold_at, 1, 2) AS sold_at_date,
  substr(sold_at, 12) AS sold_at_time, substr(sold_at, 7, 4) || substr(sold_at, 4, 2) || substr(sold_at, 1, 2) AS sold_at_key
FROM facts;
SQL
cat >"$work/totals.sql" <<SQL
.mode csv
.import $work/facts.csv facts
.output $work/sqlite.csv
SELECT substr(sold_at, 7, 4) || '-' || substr(sold_at, 4, 2) AS month, store, sum(amount), count(*) FROM facts GROUP BY 1, 2 ORDER BY 1, 2;
SQL
cat >"$work/fill.sql" <<SQL
.mode csv
.import $work/facts.csv facts
.output $work/sqlite.csv
CREATE TABLE days AS SELECT DISTINCT substr(sold_at, 7, 4) || '-' || substr(sold_at, 4, 2) || '-' || substr(sold_at, 1, 2) AS day FROM facts;
CREATE TABLE groups AS SELECT DISTINCT store, department FROM facts;
CREATE TABLE sums AS SELECT substr(sold_at, 7, 4) || '-' || substr(sold_at, 4, 2) || '-' || substr(sold_at, 1, 2) AS day, store, department, sum(amount) AS amount, count(*) AS n FROM facts GROUP BY 1, 2, 3;
SELECT day, store, department, coalesce(amount, 0), coalesce(n, 0) FROM days CROSS JOIN groups LEFT JOIN sums USING (day, store, department) ORDER BY 1, 2, 3;
SQL
go run ./scripts/bigspans $((rows / 20)) >"$work/tenth.csv" # the join takes minutes for half a million
cat >"$work/census.sql" <<SQL
.mode csv
.import $work/tenth.csv spans
.output $work/sqlite.csv
CREATE TABLE days AS WITH RECURSIVE d(day) AS (SELECT '2021-01-01' UNION ALL SELECT date(day, '+1 day') FROM d WHERE day < '2025-12-31') SELECT day FROM d;
CREATE INDEX spans_by ON spans(opened, closed, team);
SELECT day, team, count(*) FROM days JOIN spans ON opened <= day AND (closed = '' OR closed > day) GROUP BY 1, 2 ORDER BY 1, 2;
SQL
for name in convert totals fill census; do
  /usr/bin/time -f "sqlite3 shell, $name: %e s" sqlite3 :memory: <"$work/$name.sql"
done
