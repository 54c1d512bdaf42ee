#!/usr/bin/env bash
# packages.sh [servers]: installs what tests need of Debian's packages and is missing, or of them only the database servers. Who may not
# install anything is told what is missing; the tests that need it are skipped by name.
set -euo pipefail
missing=()
command -v initdb >/dev/null || ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || missing+=(postgresql)
command -v mariadbd >/dev/null || [ -x /usr/sbin/mariadbd ] || missing+=(mariadb-server)
if [ "${1:-}" != servers ]; then
  command -v make >/dev/null || missing+=(make)
  command -v gcc >/dev/null || missing+=(gcc libc6-dev)
  command -v git >/dev/null || missing+=(git)
  command -v strace >/dev/null || missing+=(strace)
  command -v zstd >/dev/null || missing+=(zstd)
  command -v sqlite3 >/dev/null || missing+=(sqlite3)
  command -v groff >/dev/null || missing+=(groff-base)
  command -v node >/dev/null || missing+=(nodejs)
  java --version >/dev/null 2>&1 && command -v javac >/dev/null || missing+=(default-jdk-headless)
fi
# Under Wine the program for Windows is tried; a function that Debian's lacks is compiled for it.
windows=()
if [ "${1:-}" != servers ] && [ "$(uname -m)" = x86_64 ]; then
  command -v wine >/dev/null && command -v wineserver >/dev/null || windows+=(wine wine64)
  command -v x86_64-w64-mingw32-gcc >/dev/null || windows+=(gcc-mingw-w64-x86-64)
fi
[ $((${#missing[@]} + ${#windows[@]})) -gt 0 ] || exit 0
if [ "$(id -u)" != 0 ] || ! command -v apt-get >/dev/null; then
  echo "not installed: ${missing[*]} ${windows[*]}; tests that need them are skipped" >&2
  exit 1
fi
apt-get update -qq
export DEBIAN_FRONTEND=noninteractive
[ ${#missing[@]} -eq 0 ] || apt-get install -y -qq "${missing[@]}"
[ ${#windows[@]} -eq 0 ] || apt-get install -y -qq --no-install-recommends "${windows[@]}"
