#!/usr/bin/env bash
# shots.sh DIR: takes the pictures of the docs from the demo's files.
set -euo pipefail
root=$(cd "$(dirname "$0")/.." && pwd)
mkdir -p "$1"
out=$(cd "$1" && pwd)
PATH=$root/bin:$PATH
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
roundyear demo >/dev/null
shot() { "$root/scripts/termshot.sh" "$out/$1.png" "$2"; echo "$out/$1.png"; }
shot demo 'roundyear demo'
cd fernhollow
fiscal='--fiscal-start february --fiscal-named-by start'
shot survey 'roundyear survey data/orders.csv data/till-b.csv'
shot normalise "roundyear normalise 'data/till-*.csv' -o clean/sales.csv; echo; head -n 3 clean/sales.csv; echo; cat clean/sales.rejects.csv"
shot build "roundyear build --cover clean/sales.csv:sold_at_date $fiscal -o dates.csv; echo; roundyear build --from 2026-01-26 --to 2026-02-08 $fiscal --columns date,day_name,month_name,week_label,fiscal_year_label,fiscal_quarter_label,fiscal_month_label,is_workday --format table"
grep -v '^2026021' dates.csv | sed -e 's/^20250704,/20250407,/' -e '/^20241225,/p' >holes.csv
shot check 'roundyear check dates.csv --cover clean/sales.csv:sold_at_date; echo; roundyear check holes.csv --cover clean/sales.csv:sold_at_date'
shot totals "roundyear totals clean/sales.csv --sum amount --count --by shop --grain fiscal.year $fiscal --as-of 2026-03-15"
shot fill 'roundyear fill clean/orders.csv --date ordered_date --by plant --sum units --last cost --gap cost=carry --grain week --from 2026-01-01 --to 2026-02-15 --where "plant=Marsh iris,Ivory heather" --as-of 2026-03-15'
SIZE=9 GEOMETRY=176x52 shot columns 'roundyear columns --fiscal-start february --format table -q | head -n 48'
