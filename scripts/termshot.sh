#!/usr/bin/env bash
# termshot.sh OUT.png 'command': runs a command in a terminal of its own, 1280 by 800 pixels, and takes its picture.
# Needs Debian's packages xvfb xterm imagemagick fonts-dejavu-core.
set -euo pipefail
out=$1 line=$2
work=$(mktemp -d)
xvfb='' xterm=''
cleanup() {
  for pid in $xterm $xvfb; do kill "$pid" 2>/dev/null || true; done
  rm -rf "$work"
}
trap cleanup EXIT
Xvfb -displayfd 3 -screen 0 1280x800x24 -nolisten tcp 3>"$work/display" 2>"$work/xvfb.log" &
xvfb=$!
for _ in $(seq 100); do [ -s "$work/display" ] && break; sleep 0.1; done
[ -s "$work/display" ] || { echo "termshot: no display: $(cat "$work/xvfb.log")" >&2; exit 1; }
DISPLAY=:$(tr -d '[:space:]' <"$work/display")
export DISPLAY TERM=xterm-256color
printf 'printf "\\033[?25l"\nprintf "\\033[1m$\\033[0m %%s\\n" "$1"\nbash -c "$1"\ntouch "%s"\nexec sleep 600\n' "$work/done" >"$work/run.sh"
xterm -u8 -fa 'DejaVu Sans Mono' -fs "${SIZE:-11}" -bg '#101418' -fg '#d8dee9' -b 8 +sb -geometry "${GEOMETRY:-140x41}+0+0" \
  -xrm 'XTerm*color1: #ff6b6b' -xrm 'XTerm*color9: #ff6b6b' -e bash "$work/run.sh" "$line" &
xterm=$!
for _ in $(seq 300); do [ -e "$work/done" ] && break; sleep 0.1; done
sleep 0.5
mkdir -p "$(dirname "$out")"
import -window root "$out"
# Leave out the empty lines below.
convert "$out" -shave 6x6 -bordercolor '#101418' -border 1 -fuzz 4% -trim +repage -bordercolor '#101418' -border 8 "$out"
