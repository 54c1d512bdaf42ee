#!/usr/bin/env bash
# benchdb.sh [ROWS]: what databases take, as ratios to what the database itself takes for the same, on a server of PostgreSQL that is
# started for it: publishing 100 years of three calendars beside psql's copy of the same rows, totals of facts that are read beside psql's
# copy of the same columns, and totals, normalise and lapse inside beside statements written by hand. The two sides take turns, five times, and the medians
# count. Needs Debian's packages postgresql and time.
set -euo pipefail
rows=${1:-2000000}
root=$(cd "$(dirname "$0")/.." && pwd)
bin=$(dirname "$(ls /usr/lib/postgresql/*/bin/initdb 2>/dev/null | tail -n 1 || command -v initdb)")
work=$(mktemp -d -p /dev/shm)
owner=$(id -un)
[ "$owner" = root ] && owner=postgres
chown "$owner" "$work"
as() { if [ "$(id -un)" = "$owner" ]; then "$@"; else runuser -u "$owner" -- "$@"; fi; }
trap 'as "$bin/pg_ctl" -D "$work/data" -m immediate stop >/dev/null 2>&1 || true; rm -rf "$work"' EXIT
cd "$work"
as "$bin/initdb" -D "$work/data" -A trust -U bench --no-sync >/dev/null
as "$bin/pg_ctl" -D "$work/data" -w -l "$work/log" -o "-k $work -c listen_addresses=" start >/dev/null
psql=(psql -X -q -h "$work" -U bench -d postgres -v ON_ERROR_STOP=1)
address="postgres:///postgres?host=$work&user=bench"
program=$root/bin/roundyear
"${psql[@]}" -c 'CREATE TABLE facts (receipt text, store text, item text, sold_at timestamp, quantity int, amount numeric(12,2), note text, department text)'
(cd "$root" && go run ./scripts/bigfacts "$rows") | "${psql[@]}" -c "SET datestyle = 'ISO, DMY'" -c '\copy facts FROM STDIN csv header'
"${psql[@]}" -c 'VACUUM ANALYZE facts'
cat >plan.yaml <<YAML
roundyear: 1
range: {from: 1950-01-01, to: 2049-12-31}
calendars:
  fiscal: {months: {starts: february}, named_by: start}
  retail: {weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4}, named_by: start}
  legal: {months: {starts: april}}
YAML
# By hand, as one would: a row per month and store.
cat >byhand.sql <<SQL
SELECT date_trunc('month', sold_at)::date AS month, store, sum(amount) AS amount, count(*) AS receipts
FROM facts
GROUP BY 1, 2
ORDER BY 1, 2;
SQL
# Things that were delivered some days after they were sold, and the running number of workdays, to measure that by hand.
delivered='SELECT *, sold_at::date + quantity * 7 % 60 AS delivered FROM facts'
"${psql[@]}" -c "CREATE TABLE workdays AS SELECT d::date AS day, count(*) FILTER (WHERE extract(isodow FROM d) < 6) OVER (ORDER BY d) AS number FROM generate_series('2000-01-01'::date, '2040-01-01', '1 day') d" -c 'ALTER TABLE workdays ADD PRIMARY KEY (day)' -c 'ANALYZE workdays'
"$program" publish -p plan.yaml -o "$address" -q
"${psql[@]}" -c '\copy dates TO dates.copy' -c 'CREATE TABLE again (LIKE dates)'
publish() { "${psql[@]}" -c 'DROP TABLE IF EXISTS dates, roundyear_tables CASCADE'; timed publish "$program" publish -p plan.yaml -o "$address" -q; }
timed() { local name=$1; shift; /usr/bin/time -a -o times -f "$name %e %M" "$@"; }
for _ in 1 2 3 4 5; do
  timed copy-dates "${psql[@]}" -c 'TRUNCATE again' -c '\copy again FROM dates.copy'
  publish
  timed republish "$program" publish -p plan.yaml -o "$address" -q
  timed copy-facts "${psql[@]}" -c '\copy (SELECT sold_at, store, amount FROM facts) TO facts.copy'
  timed totals-local "$program" totals "$address#facts" --date sold_at --sum amount --count --by store --no-plan --run local -q -o local.csv
  timed by-hand "${psql[@]}" -f byhand.sql -o byhand.txt
  timed totals-inside "$program" totals "$address#facts" --date sold_at --sum amount --count --by store --no-plan --run inside -q -o inside.csv
  timed normalise-local "$program" normalise "$address#facts" --date sold_at --no-plan --run local -q -o "$address#cleaned"
  "${psql[@]}" -c 'DROP TABLE IF EXISTS cleaned'
  timed normalise-by-hand "${psql[@]}" -c "CREATE TABLE cleaned AS SELECT *, sold_at::date AS sold_at_date, sold_at::time AS sold_at_time, to_char(sold_at, 'YYYYMMDD')::bigint AS sold_at_key FROM facts"
  "${psql[@]}" -c 'DROP TABLE IF EXISTS cleaned'
  timed normalise-inside "$program" normalise "$address#facts" --date sold_at --no-plan --run inside -q -o "$address#cleaned"
  timed lapse-local "$program" lapse "$address#$delivered" --start sold_at --end delivered --in workdays --no-plan --run local -q -o "$address#lapsed"
  "${psql[@]}" -c 'DROP TABLE IF EXISTS lapsed'
  timed lapse-by-hand "${psql[@]}" -c "CREATE TABLE lapsed AS SELECT f.*, e.number - s.number AS workdays FROM ($delivered) f LEFT JOIN workdays s ON s.day = f.sold_at::date LEFT JOIN workdays e ON e.day = f.delivered"
  "${psql[@]}" -c 'DROP TABLE IF EXISTS lapsed'
  timed lapse-inside "$program" lapse "$address#$delivered" --start sold_at --end delivered --in workdays --no-plan --run inside -q -o "$address#lapsed"
done
cmp local.csv inside.csv
echo "$rows rows, $(nproc) processors"
awk '{n[$1]++; t[$1, n[$1]] = $2; if ($3 > mem[$1]) mem[$1] = $3; if (!($1 in seen)) {seen[$1] = 1; name[++count] = $1}}
  function median(what, i, j, x, v) {
    for (i = 1; i <= n[what]; i++) v[i] = t[what, i]
    for (i = 1; i < n[what]; i++) for (j = i + 1; j <= n[what]; j++) if (v[j] < v[i]) {x = v[i]; v[i] = v[j]; v[j] = x}
    return v[int((n[what] + 1) / 2)]
  }
  END {
    beside["publish"] = beside["republish"] = "copy-dates"; beside["totals-local"] = "copy-facts"; beside["totals-inside"] = "by-hand"; beside["normalise-local"] = beside["normalise-inside"] = "normalise-by-hand"; beside["lapse-local"] = beside["lapse-inside"] = "lapse-by-hand"
    for (i = 1; i <= count; i++) {
      own = name[i]
      printf "%-17s median %6.2f s", own, median(own)
      if (own in beside) printf ", %4.2f times %s, at most %d kB", median(own) / median(beside[own]), beside[own], mem[own]
      printf "\n"
    }
  }' times
