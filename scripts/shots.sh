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
shot() { "$root/scripts/termshot.sh" "$out/$1.png" "$2"; echo "$out/$1.png"; }
shot demo 'roundyear demo'
cd fernhollow
shot survey 'roundyear survey data/orders.csv data/till-b.csv'
shot normalise "roundyear normalise 'data/till-*.csv' -o clean/sales.csv; echo; head -n 3 clean/sales.csv; echo; cat clean/sales.rejects.csv"
sed 's/4-5-4/4-4-4/; s/first_day/firstday/; s/cover: .sales.sold_at/cover: [sales.sold_on/' roundyear.yaml >wrong.yaml
SIZE=9 GEOMETRY=158x52 shot plan 'sed -n "/^range/,/^sites/p" roundyear.yaml; roundyear plan check --as-of 2026-03-15; echo; roundyear plan check wrong.yaml'
SIZE=9 GEOMETRY=158x52 shot days-off 'roundyear days-off GB-SCT --year 2022 --format table; echo; roundyear days-off IE --year 2026 --months'
shot explain 'roundyear explain 2024-02-03 --columns year,iso_week,fiscal_year,fiscal_month,retail_year,retail_month,retail_week,retail_date_year_ago,retail_date_year_ago_restated'
shot build "roundyear build; echo; roundyear build --from 2026-01-26 --to 2026-02-08 --columns date,day_name,day_short_nl,month_name,fiscal_month_label,retail_week_label,retail_date_year_ago,is_workday --format table -q"
grep -v '^2026021' dates.csv | sed -e 's/^20250704,/20250407,/' -e '/^20241225,/p' -e 's/,R2025 W31,/,R2025 W13,/' >holes.csv
SIZE=9 GEOMETRY=158x52 shot check 'roundyear check dates.csv; echo; roundyear check holes.csv'
shot totals "roundyear totals clean/sales.csv --sum amount --count --by shop --grain fiscal.year --as-of 2026-03-15"
shot against "roundyear totals clean/sales.csv --sum amount --against year-ago --recent 14 --as-of 2026-03-15; roundyear totals clean/sales.csv --sum amount --grain fiscal.quarter,fiscal.year --against year-ago --to-date --recent 1 --as-of 2026-03-15"
sed 's/january, day: 5/january, day: 6/' roundyear.yaml >changed.yaml
SIZE=9 GEOMETRY=158x52 shot publish 'roundyear publish --foreign-keys -o shop.db; echo; roundyear publish --foreign-keys -o shop.db -p changed.yaml; sqlite3 shop.db "UPDATE dates SET day_name = '\''Dinsdag'\'' WHERE date_key = 20260317"; echo; roundyear publish --foreign-keys -o shop.db -p changed.yaml'
shot latest "roundyear latest clean/sales.csv --sum amount --by shop --money EUR"
shot fill 'roundyear fill clean/orders.csv --date ordered_date --by plant --sum units --last cost --gap cost=carry --grain week --from 2026-01-01 --to 2026-02-15 --where "plant=Marsh iris,Ivory heather" --as-of 2026-03-15'
shot census 'roundyear census clean/orders.csv --opened ordered_date --closed delivered_date --from 2025-07-01 --median-age --as-of 2026-03-15; echo; roundyear census clean/orders.csv --opened ordered_date --closed delivered_date --cohort --from 2025-07-01 --as-of 2026-03-15'
shot lapse 'roundyear lapse clean/orders.csv --start ordered_date --end delivered_date --in workdays --bands 5,10,20 -o deliveries.csv; echo; head -4 deliveries.csv | cut -d, -f1-3,8,10,12-; echo; roundyear lapse clean/orders.csv --start ordered_date --end delivered_date --band "in time=..14" --band "late=15.." --distribution --by shop --where shop=Ballyfern,Varenoord'
shot allocate 'roundyear allocate clean/budget.csv --date budget_date --sum budget --by shop --where shop=Cloghvale --over trading-days --at-column shop --grain retail.month -o budget.csv; echo; sed -n "1p;13,20p" budget.csv; echo; roundyear allocate clean/budget.csv --date budget_date --sum budget --by shop --where shop=Cloghvale,Varenoord --grain retail.year --format table'
SIZE=9 GEOMETRY=158x52 shot columns 'roundyear columns --columns fiscal --as-of 2026-03-15 --format table -q | head -n 48'
shot run 'roundyear totals clean/orders.csv --date ordered_date --count --grain fiscal.month --as-of 2026-03-15 --show-request; echo; roundyear run; echo; roundyear run quarters'
roundyear totals clean/sales.csv --sum amount --count --by shop --grain fiscal.quarter --as-of 2026-03-15 -q -o totals.html
if command -v chromium >/dev/null; then # pages are taken by Debian's chromium
  chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --window-size=1280,800 --screenshot="$out/page.png" totals.html 2>/dev/null
  echo "$out/page.png"
fi
