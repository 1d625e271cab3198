#!/usr/bin/env bash
# Copies scripts, styles and fonts from pinned npm packages into web/static/lib, each
# with its licence. Anyone can rerun it; nothing is fetched at run time or in tests.
set -euo pipefail
cd "$(dirname "$0")/.."
out=web/static/lib
tmp=$(mktemp -d)
trap 'rm -rf "$tmp"' EXIT
fetch() { # package version
  (cd "$tmp" && npm pack --silent "$1@$2" >/dev/null && mkdir -p "$3" && tar -xzf ./*.tgz -C "$3" --strip-components=1 && rm -f ./*.tgz)
}
take() { # folder file target
  mkdir -p "$(dirname "$out/$3")"; cp "$tmp/$1/$2" "$out/$3"
}
rm -rf "$out"; mkdir -p "$out"
fetch bootstrap 5.3.8 bootstrap
take bootstrap dist/css/bootstrap.min.css bootstrap/bootstrap.min.css
take bootstrap LICENSE bootstrap/LICENSE
fetch htmx.org 2.0.10 htmx
take htmx dist/htmx.min.js htmx/htmx.min.js
take htmx LICENSE htmx/LICENSE
fetch @fontsource-variable/source-sans-3 5.2.9 sans
take sans files/source-sans-3-latin-wght-normal.woff2 fonts/source-sans-3.woff2
take sans LICENSE fonts/source-sans-3.LICENSE
fetch @fontsource-variable/source-serif-4 5.2.9 serif
take serif files/source-serif-4-latin-wght-normal.woff2 fonts/source-serif-4.woff2
take serif LICENSE fonts/source-serif-4.LICENSE
fetch axe-core 4.10.3 axe
mkdir -p web/testdata; cp "$tmp/axe/axe.min.js" web/testdata/axe.min.js; cp "$tmp/axe/LICENSE" web/testdata/axe.LICENSE
find "$out" -type f | sort
