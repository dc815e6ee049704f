# Writes the parts on which recognition is tried, with Debian's general
# geometry kernel:
#   OUT=folder occt-draw-7.6 -b -f demo/author/features.tcl
# What is on them stands in core/feature/drawings_test.go.
pload MODELING XDE DATAEXCHANGE
proc out {name shape} {
  global env
  uplevel #0 "stepwrite a $shape $env(OUT)/$name.step; newmodel"
}
proc block {name x y z dx dy dz} { uplevel #0 "box $name $x $y $z $dx $dy $dz" }
# cyl: axis through x y z along dx dy dz
proc cyl {name x y z dx dy dz r h} {
  uplevel #0 "plane cyl_p $x $y $z $dx $dy $dz; pcylinder $name cyl_p $r $h"
}
# coni: frustum along dx dy dz
proc coni {name x y z dx dy dz r1 r2 h} {
  uplevel #0 "plane cyl_p $x $y $z $dx $dy $dz; pcone $name cyl_p $r1 $r2 $h"
}
proc cut {r args} { foreach t $args { uplevel #0 "bcut $r $r $t" } }
proc add {r args} { foreach t $args { uplevel #0 "bfuse $r $r $t" } }
# rounded: upright block with vertical corners of radius c, from z0 to z1
proc rounded {name x0 y0 x1 y1 z0 z1 c} {
  set h [expr $z1-$z0]
  block $name $x0 [expr $y0+$c] $z0 [expr $x1-$x0] [expr $y1-$y0-2*$c] $h
  block rd_b [expr $x0+$c] $y0 $z0 [expr $x1-$x0-2*$c] [expr $y1-$y0] $h
  add $name rd_b
  foreach x [list [expr $x0+$c] [expr $x1-$c]] { foreach y [list [expr $y0+$c] [expr $y1-$c]] {
    cyl rd_c $x $y $z0 0 0 1 $c $h
    add $name rd_c } }
  uplevel #0 "unifysamedom $name $name"
}
# edges of a shape whose bounding box fits the given one
proc edges_in {s x0 y0 z0 x1 y1 z1} {
  set found {}
  uplevel #0 "explode $s e"
  foreach e [uplevel #0 "directory ${s}_*"] {
    if {![regexp "^${s}_\[0-9\]+\$" $e]} continue
    set b [uplevel #0 "bounding $e"]
    foreach {a b c d f g} $b break
    if {$a>$x0-0.01 && $b>$y0-0.01 && $c>$z0-0.01 && $d<$x1+0.01 && $f<$y1+0.01 && $g<$z1+0.01} { lappend found $e }
  }
  return $found
}
proc round_edges {s r edges} {
  set list {}
  foreach e $edges { lappend list $r $e }
  uplevel #0 "blend $s $s $list"
}

# a slot in the right side, a blind hole in the left, a through hole along y
block b 0 0 0 60 40 30
block t 50 10 10 10 20 10; cyl c1 50 10 15 1 0 0 5 10; cyl c2 50 30 15 1 0 0 5 10; cut b t c1 c2
cyl c 0 20 15 1 0 0 3 12; cut b c
cyl c 30 0 8 0 1 0 2.5 40; cut b c
out side-slot b

# a pocket and a threaded hole from below
block b 0 0 0 70 50 25
rounded t 10 10 45 40 0 9 6; cut b t
cyl c 58 25 0 0 0 1 2.5 14; coni d 58 25 14 0 0 1 2.5 0 1.5; cut b c d
out from-below b

# a window along y, a groove along the bottom
block b 0 0 0 80 30 40
block t 20 0 14 30 30 12; cyl c1 20 0 20 0 1 0 6 30; cyl c2 50 0 20 0 1 0 6 30; cut b t c1 c2
block t 62 0 0 8 30 6; cut b t
out window b

# a pocket with rounds at its floor
block b 0 0 0 80 60 25
rounded t 15 15 65 45 10 25 8
round_edges t 3 [edges_in t 15 15 10 65 45 10]
cut b t
out floor-rounds b

# a pocket with drafted walls
block b 0 0 0 80 60 25
polyline q1 20 20 10 60 20 10 60 40 10 20 40 10 20 20 10
polyline q2 15 15 25 65 15 25 65 45 25 15 45 25 15 15 25
thrusections t 1 1 q1 q2; cut b t
out drafted b

# rounded upper edges, chamfered lower edges
block b 0 0 0 60 40 20
round_edges b 4 [edges_in b 0 0 20 60 40 20]
out rounded-top b
block b 0 0 0 60 40 20
explode b f; explode b e
foreach e [edges_in b 0 0 20 60 40 20] { lappend chamfers $e }
block k 0 0 0 60 40 18; polyline q1 0 0 18 60 0 18 60 40 18 0 40 18 0 0 18
polyline q2 2 2 20 58 2 20 58 38 20 2 38 20 2 2 20
thrusections t 1 1 q1 q2; bfuse b k t; unifysamedom b b
out chamfered-top b

# a T-slot and a dovetail, both along x
block b 0 0 0 80 50 30
block t 0 20 18 80 10 12; block u 0 15 10 80 20 8; cut b t u
out t-slot b
block b 0 0 0 80 50 30
polyline q 0 20 30 0 30 30 0 34 22 0 16 22 0 20 30; mkplane f q; prism t f 80 0 0; cut b t
out dovetail b

# one hole through both ears of a clevis; two crossing bores
block b 0 0 0 60 40 40
block t 20 0 12 20 40 28; cut b t
cyl c 0 20 28 1 0 0 6 60; cut b c
out clevis b
block b 0 0 0 50 50 50
cyl c 25 25 0 0 0 1 8 50; cyl d 0 25 30 1 0 0 5 50; cut b c d
out crossing b

# counterbored from both sides; countersunk; stepped with a point
block b 0 0 0 90 40 30
cyl c 20 20 0 0 0 1 4 30; cyl d 20 20 24 0 0 1 8 6; cyl e 20 20 0 0 0 1 7 5; cut b c d e
cyl c 45 20 0 0 0 1 3.3 30; coni d 45 20 26.7 0 0 1 3.3 6.6 3.3; cut b c d
cyl c 70 20 20 0 0 1 5 10; cyl d 70 20 8 0 0 1 3 12; coni e 70 20 6.2679 0 0 1 0 3 1.7321; cut b c d e
out compound-holes b

# patterns: six on a circle, a grid of 3 × 4, five on a line
block b 0 0 0 160 80 12
for {set k 0} {$k<6} {incr k} {
  set a [expr 3.14159265358979*$k/3]
  cyl c [expr 40+25*cos($a)] [expr 40+25*sin($a)] 0 0 0 1 2.75 12; cut b c }
for {set i 0} {$i<4} {incr i} { for {set j 0} {$j<3} {incr j} {
  cyl c [expr 90+15*$i] [expr 20+12*$j] 0 0 0 1 2.1 12; cut b c } }
for {set i 0} {$i<5} {incr i} { cyl c [expr 85+14*$i] 70 4 0 0 1 1.65 8; cut b c }
out patterns b

# a round and a long boss on a plate
block b 0 0 0 80 60 10
cyl c 20 30 10 0 0 1 12 15; rounded t 45 18 70 42 10 18 6; add b c t; unifysamedom b b
out bosses b

# a staircase with a slot across it
block b 0 0 0 80 40 40
block t 60 0 10 20 40 30; block u 40 0 20 20 40 20; block v 20 0 30 20 40 10; cut b t u v
block s 0 16 6 80 8 34; cut b s
out staircase b

# an inclined face with a hole square to it
block b 0 0 0 60 40 40
polyline q 60 0 20 60 0 40 40 0 40 60 0 20; mkplane f q; prism t f 0 40 0; cut b t
cyl c 50 20 30 -1 0 -1 3 12; cut b c
out inclined b

# a crowned top; a dome on a plate
block b 0 0 0 60 40 20
beziercurve k 4 0 0 20 20 0 26 40 0 26 60 0 20; mkedge e1 k; line l 0 0 20 1 0 0; mkedge e2 l 0 60
wire w e1 e2; mkplane f w; prism t f 0 40 0; bfuse b b t
out crowned b
block b 0 0 0 60 60 10
psphere s 20; ttranslate s 30 30 10; block k 0 0 10 60 60 40; bcommon d s k; bfuse b b d
out dome b

# an arc slot, a pocket with a spline wall
block b 0 0 0 80 80 15
cyl c 40 10 7 0 0 1 44 8; cyl d 40 10 7 0 0 1 36 8; bcut r c d
block k 0 38.284271247 7 80 80 8; plane p 40 10 7 0 0 1
polyline q 40 10 7 110 80 7 -30 80 7 40 10 7; mkplane f q; prism w f 0 0 8; bcommon r r w
cyl e1 [expr 40+40*sqrt(0.5)] [expr 10+40*sqrt(0.5)] 7 0 0 1 4 8; cyl e2 [expr 40-40*sqrt(0.5)] [expr 10+40*sqrt(0.5)] 7 0 0 1 4 8
bfuse r r e1; bfuse r r e2; unifysamedom r r; cut b r
out arc-slot b
block b 0 0 0 80 60 15
beziercurve k 4 15 15 5 30 30 5 50 5 5 65 15 5; mkedge e1 k
line l 65 15 5 0 1 0; mkedge e2 l 0 30; line l 65 45 5 -1 0 0; mkedge e3 l 0 50; line l 15 45 5 0 -1 0; mkedge e4 l 0 30
wire w e1 e2 e3 e4; mkplane f w; prism t f 0 0 10; cut b t
out spline-wall b

# a pocket with an island and a deeper pocket in it
block b 0 0 0 100 70 30
rounded t 10 10 90 60 18 30 8; rounded i 25 25 40 45 18 30 5; bcut t t i; cut b t
rounded u 55 20 80 50 8 18 6; cut b u
out two-levels b

# a hole whose mouth is cut by a slot, an open pocket
block b 0 0 0 80 50 25
cyl c 40 25 0 0 0 1 5 25; block t 0 21 17 80 8 8; cut b c t
block u 55 0 12 25 15 13; cyl d 59 11 12 0 0 1 4 13; cut b u
out slot-over-hole b

# many of all kinds, from five sides: about 250 faces
block b 0 0 0 240 160 40
for {set i 0} {$i<4} {incr i} { for {set j 0} {$j<3} {incr j} {
  set x [expr 14+56*$i]; set y [expr 14+48*$j]
  rounded t $x $y [expr $x+40] [expr $y+34] 22 40 5; cut b t
  cyl c [expr $x+20] [expr $y+17] 0 0 0 1 3.3 22; cyl d [expr $x+20] [expr $y+17] 16 0 0 1 5.5 6; cut b c d } }
for {set i 0} {$i<8} {incr i} { foreach y {6 154} {
  cyl c [expr 15+30*$i] $y 40 0 0 -1 2.1 16; coni d [expr 15+30*$i] $y 24 0 0 -1 2.1 0 1.2; cut b c d } }
for {set i 0} {$i<9} {incr i} { foreach z {10} {
  cyl c [expr 20+25*$i] 0 $z 0 1 0 2.5 12; cyl d [expr 20+25*$i] 160 $z 0 -1 0 4 10; cut b c d } }
foreach y {30 60 90 120} { block t 230 $y 12 10 12 16; block u 0 $y 12 10 12 16; cut b t u }
out sampler b

# a nameplate: L, T, O and a dot engraved on top, two V strokes in front
block b 0 0 0 80 40 6
block s 10 10 5.6 0.8 12 1; cut b s; block s 10 10 5.6 7 0.8 1; cut b s
block s 24 10 5.6 0.8 12 1; cut b s; block s 20 21.2 5.6 8.8 0.8 1; cut b s
cyl c 40 16 5.6 0 0 1 6 1; cyl d 40 16 5.6 0 0 1 5.2 1; bcut o c d; cut b o
cyl c 50 10.5 5.6 0 0 1 0.5 1; cut b c
foreach x {20 30} {
  polyline q $x 0 1.5 [expr $x+0.6] 0 1.5 [expr $x+0.3] 0.3 1.5 $x 0 1.5; mkplane f q; prism v f 0 0 3; cut b v }
out nameplate b
