#!/usr/bin/env bash
# Fetches the npm package cldr-dates-full and makes names.tsv.gz of it, with its licence beside it.
set -euo pipefail
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
(cd "$work" && npm pack --silent cldr-dates-full@48.2.0 >/dev/null && tar xzf cldr-dates-full-*.tgz)
go run ../scripts/localenames "$work/package" names.tsv.gz
cp "$work/package/LICENSE" LICENSE-CLDR
