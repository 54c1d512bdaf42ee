#!/usr/bin/env bash
# bench.sh [ROWS]: whole runs on a large made-up file in memory, as ratios to counting its lines in the same run.
# Needs Debian's package hyperfine.
set -euo pipefail
rows=${1:-2000000}
root=$(cd "$(dirname "$0")/.." && pwd)
work=$(mktemp -d -p /dev/shm)
trap 'rm -rf "$work"' EXIT
cd "$root"
go run ./scripts/bigfacts "$rows" >"$work/facts.csv"
program=$root/bin/roundyear
echo "$rows rows, $(stat -c %s "$work/facts.csv") bytes, $(nproc) processors"
hyperfine --warmup 1 --runs 5 --export-csv "$work/times.csv" --shell none --style none \
  -n 'wc -l' "wc -l $work/facts.csv" \
  -n 'normalise' "$program normalise $work/facts.csv -q -o $work/out.csv" \
  -n 'totals by month and store' "$program totals $work/facts.csv --sum amount --count --by store -q -o $work/totals.csv" \
  -n 'build, 200 years' "$program build --from 1826-01-01 --to 2025-12-31 -q -o $work/dates.csv" >/dev/null
awk -F, 'NR == 2 {base = $4} NR > 1 {printf "%-28s median %7.3f s, %6.1f times wc -l\n", $1, $4, $4 / base}' "$work/times.csv"
/usr/bin/time -f 'normalise: at most %M kB of memory' "$program" normalise "$work/facts.csv" -q -o "$work/out.csv"
