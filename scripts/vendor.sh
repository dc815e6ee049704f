#!/bin/sh
# Refreshes web/static/vendor from npm: versions, files and licences.
# usage: scripts/vendor.sh        (needs node's npm; network only for this)
set -eu
cd "$(dirname "$0")/.."
out=web/static/vendor
tmp=$(mktemp -d)
trap 'rm -rf "$tmp"' EXIT
(cd "$tmp" && npm init -y >/dev/null && npm install --no-audit --no-fund three@0.187.0 htmx.org@4.0.1 bulma@1.0.4 @fontsource/b612@5 @fontsource/b612-mono@5 >/dev/null)
mods=$tmp/node_modules
rm -rf "$out" && mkdir -p "$out/licences"
go run ./scripts/bundle "$mods" "$out/three.js"
cp "$mods/htmx.org/dist/htmx.min.js" "$out/htmx.js"
cp "$mods/bulma/css/bulma.min.css" "$out/bulma.css"
for f in b612-latin-400-normal b612-latin-700-normal; do cp "$mods/@fontsource/b612/files/$f.woff2" "$out/"; done
for f in b612-mono-latin-400-normal b612-mono-latin-700-normal; do cp "$mods/@fontsource/b612-mono/files/$f.woff2" "$out/"; done
{
  echo "# Vendored packages"
  echo
  echo "| package | version | licence | for |"
  echo "|---|---|---|---|"
  for p in three:view htmx.org:page\ swaps bulma:styles @fontsource/b612:text @fontsource/b612-mono:figures\ and\ code; do
    name=${p%%:*}; use=${p#*:}
    version=$(node -p "require('$mods/$name/package.json').version")
    licence=$(node -p "require('$mods/$name/package.json').license")
    echo "| $name | $version | $licence | $use |"
    file=$(ls "$mods/$name" | grep -i '^licen[cs]e' | head -n 1)
    [ -n "$file" ] && cp "$mods/$name/$file" "$out/licences/$(echo "$name" | tr '/@' '__').txt"
  done
} > "$out/VERSIONS.md"
cat "$out/VERSIONS.md"
