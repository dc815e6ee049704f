#!/bin/sh
# Writes the gauge lid again under AP203 and AP242, with Debian's general
# geometry kernel (apt-get install occt-draw libocct-draw-dev).
set -eu
here=$(cd "$(dirname "$0")" && pwd)
out=$here/../../core/exchange/step/testdata
work=$(mktemp -d)
draw() { occt-draw-7.6 -b -f "$work/run.tcl" >"$work/log" 2>&1 || { cat "$work/log"; exit 1; }; }
cat >"$work/run.tcl" <<END
pload MODELING XDE DATAEXCHANGE
stepread $here/../parts/gauge-lid.step lid *
save lid_1 $work/lid.brep
END
draw
# the schema is fixed at the first write of a process, so each has its own
for pair in AP203:ap203 AP242DIS:ap242; do
  cat >"$work/run.tcl" <<END
pload MODELING XDE DATAEXCHANGE
param write.step.schema ${pair%:*}
restore $work/lid.brep lid
stepwrite a lid $work/lid.step
END
  draw
  perl -0pe "s/FILE_NAME\(.*?\);/FILE_NAME('gauge-lid','2026-11-02T08:00:00',('Design office'),('Fennmark Instrument Works'),'','','');/s; s/'Open CASCADE[^']*'/'Gauge lid'/g" \
    "$work/lid.step" >"$out/gauge-lid-${pair#*:}.step"
done
rm -rf "$work"
