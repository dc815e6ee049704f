#!/bin/sh
# Compares the import with an independent geometry kernel over the STEP files
# that general geometry packages of Debian and npm ship, and over files that
# the kernel writes itself (demo/author/shapes.tcl). Installs the kernel and
# fetches the packages; nothing of them is kept.
set -eu
here=$(cd "$(dirname "$0")/.." && pwd)
work=${COMPARE_DIR:-$(mktemp -d)}
mkdir -p "$work/files" "$work/get"
command -v occt-draw-7.6 >/dev/null || { apt-get update -qq; apt-get install -y -qq --no-install-recommends occt-draw libocct-draw-dev >/dev/null; }
cd "$work/get"
[ -d package ] || { npm pack --silent occt-import-js >/dev/null; tar xzf occt-import-js-*.tgz; }
[ -d deb ] || { apt-get download -qq gmsh-doc netgen-doc 2>/dev/null; for d in *.deb; do dpkg -x "$d" deb; done; }
find package deb \( -iname '*.stp' -o -iname '*.step' -o -iname '*.stp.gz' -o -iname '*.step.gz' \) | while read -r f; do
  name=$(basename "$f" .gz | tr ' ' '_')
  case $f in *.gz) gzip -dc "$f" ;; *) cat "$f" ;; esac >"$work/files/$name"
done
OUT=$work/files occt-draw-7.6 -b -f "$here/demo/author/shapes.tcl" >"$work/shapes.log" 2>&1
cat >"$work/kernel.tcl" <<END
pload MODELING XDE DATAEXCHANGE
foreach f [lsort [glob $work/files/*.st*p]] {
  set name [file tail \$f]
  set t0 [clock microseconds]
  if {[catch {testreadstep \$f s}]} continue
  set t1 [clock microseconds]
  if {[catch {incmesh s 0.01}]} continue
  set t2 [clock microseconds]
  set v 0; set w 0; set n 0
  set all [explode s so] ;# without points and surfaces for construction
  if {[llength \$all]} { eval compound \$all s }
  catch {regexp {Mass\s*:\s*([-+0-9.eE]+)} [vprops s 1e-5] x v}
  catch {regexp {Mass\s*:\s*([-+0-9.eE]+)} [vprops s -tri] x w}
  regexp {SOLID\s*:\s*(\d+)} [nbshapes s] x n
  puts "RES \$name \$n \$v \$w [expr {(\$t1-\$t0)/1000.0}] [expr {(\$t2-\$t1)/1000.0}] [string map {\n { }} [bounding s -optimal -noTriangulation]] [string map {\n { }} [bounding s -optimal]]"
  unset s
}
END
occt-draw-7.6 -b -f "$work/kernel.tcl" >"$work/kernel.log" 2>&1
cd "$here"
grep -a '^RES' "$work/kernel.log" | go run ./scripts/compareimport "$work/files"
