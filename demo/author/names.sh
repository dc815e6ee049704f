#!/bin/sh
# Writes core/exchange/step/names.go: the names of entities of the application
# protocols, as Debian's general geometry kernel (libocct-data-exchange) and the
# STEP files of this tree, and those given, have them.
set -eu
here=$(cd "$(dirname "$0")/../.." && pwd)
libs=$(dpkg -L libocct-data-exchange-7.6 | grep 'TKSTEP.*\.so\.7\.6')
{
  for l in $libs; do strings "$l"; done | grep -E '^[A-Z][A-Z0-9]*(_[A-Z0-9]+)+$'
  cat "$@" "$here"/demo/parts/*.step "$here"/core/*/testdata/*.step "$here"/core/exchange/step/testdata/shapes/*.step | tr -d '\n\r' |
    grep -oE '=[ ]*[A-Z][A-Z0-9_]+[ ]*\(|=[ ]*\([ ]*[A-Z0-9_]+|\)[ ]*[A-Z][A-Z0-9_]*_[A-Z0-9_]+[ ]*\(' | tr -d '=() '
} | sort -u | awk '
  BEGIN { print "package step\n\n// names are those of the entities of ISO 10303-203, -214 and -242, as general\n// tools write them; written by demo/author/names.sh.\nconst names = `" }
  { if (length(line) + length($0) > 150) { print line; line = "" } line = line $0 " " }
  END { print line "`" }' >"$here/core/exchange/step/names.go"
