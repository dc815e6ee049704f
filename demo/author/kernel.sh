#!/bin/sh
# Writes with Debian's general geometry kernel (apt-get install occt-draw
# libocct-draw-dev) what the tests of the reader meet: the gauge lid again
# under AP203 and AP242, and shapes of every kind of surface (shapes.tcl).
set -eu
here=$(cd "$(dirname "$0")" && pwd)
out=$here/../../core/exchange/step/testdata
work=$(mktemp -d)
draw() { OUT=$work/shapes occt-draw-7.6 -b -f "$1" >"$work/log" 2>&1 || { cat "$work/log"; exit 1; }; }
own_header() { # names the part and its maker instead of the writing software
  name=$(basename "$1" .step)
  perl -0pe "s/FILE_NAME\(.*?\);/FILE_NAME('$name','2026-11-23T08:00:00',('Design office'),('Fennmark Instrument Works'),'','','');/s; s/'Open CASCADE[^']*'/'$name'/g" "$1"
}
mkdir -p "$work/shapes" "$out/shapes"
cat >"$work/run.tcl" <<END
pload MODELING XDE DATAEXCHANGE
stepread $here/../parts/gauge-lid.step lid *
save lid_1 $work/lid.brep
END
draw "$work/run.tcl"
# the schema is fixed at the first write of a process, so each has its own
for pair in AP203:ap203 AP242DIS:ap242; do
  cat >"$work/run.tcl" <<END
pload MODELING XDE DATAEXCHANGE
param write.step.schema ${pair%:*}
restore $work/lid.brep lid
stepwrite a lid $work/gauge-lid-${pair#*:}.step
END
  draw "$work/run.tcl"
  own_header "$work/gauge-lid-${pair#*:}.step" >"$out/gauge-lid-${pair#*:}.step"
done
draw "$here/shapes.tcl"
for f in "$work"/shapes/*.step; do own_header "$f" >"$out/shapes/$(basename "$f")"; done
rm -f "$work"/shapes/*
draw "$here/features.tcl"
mkdir -p "$here/../../core/feature/testdata"
for f in "$work"/shapes/*.step; do own_header "$f" >"$here/../../core/feature/testdata/$(basename "$f")"; done
rm -rf "$work"
