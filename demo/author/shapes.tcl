# Writes shapes of every kind of surface and curve with Debian's general
# geometry kernel (packages occt-draw and libocct-draw-dev), for the tests of
# the reader and for scripts/compare-import.sh:
#   OUT=folder occt-draw-7.6 -b -f demo/author/shapes.tcl
# The volumes by hand stand in core/exchange/step/shapes_test.go.
pload MODELING XDE DATAEXCHANGE
# shapes are global variables of the interpreter
proc out {name shape {mode a}} {
  global env
  uplevel #0 "stepwrite $mode $shape $env(OUT)/$name.step; newmodel"
}
proc arc {name x1 y1 z1 x2 y2 z2 x3 y3 z3} {
  uplevel #0 "point p1 $x1 $y1 $z1; point p2 $x2 $y2 $z2; point p3 $x3 $y3 $z3; catch {gcarc $name cir p1 p2 p3}"
}

# elementary surfaces, whole and in part
psphere s 20; out sphere s
ptorus t 20 5; out torus t
pcone c 10 0 20; out cone-to-a-point c
pcone c 12 6 20 270; out cone-part c
psphere s 20 -30 45; out sphere-zone s
psphere s 20 0 90 250; out sphere-part s
ptorus t 20 5 300; out torus-part t
ptorus t 20 5 -60 70 200; out torus-strip t
psphere s 20; box b -30 -30 0 60 60 30; bcommon r s b; out half-ball r
box b 0 0 0 30 30 30; bcut r s b; out ball-less-octant r
box b 5 -30 -30 30 60 60; bcut r s b; out ball-cut-beside-poles r
pcylinder y 5 60; ttranslate y 0 0 -30; bcut r s y; out ball-drilled-through-poles r
trotate y 0 0 0 0 1 0 90; bcut r s y; out ball-drilled-across r
ptorus t 20 5; pcylinder y 2 60; ttranslate y 20 0 -30; bcut r t y; out ring-drilled r
pcylinder y 10 30; pcylinder z 4 60; trotate z 0 0 0 0 1 0 90; ttranslate z -30 0 15; bcut r y z; out shaft-cross-drilled r
pcylinder z 4 30; trotate z 0 0 0 0 1 0 90; ttranslate z 0 0 15; bcut r y z; out shaft-drilled-at-seam r
pcone c 15 5 30; pcylinder z 3 40; trotate z 0 0 0 0 1 0 90; ttranslate z -20 0 12; bcut r c z; out cone-cross-drilled r


# lemon and apple: arcs turned about their chord
proc face_of {name args} { # a planar face bounded by the edges
  uplevel #0 "wire ${name}_w $args; mkplane $name ${name}_w"
}
arc a 0 0 -12  8 0 0  0 0 12
mkedge e1 a; line l 0 0 -12 0 0 1; mkedge e2 l 0 24
face_of f e1 e2; revol r f 0 0 0 0 0 1 250; out lemon-part r
arc a 0 0 -6  16 0 0  0 0 6
mkedge e1 a; line l 0 0 -6 0 0 1; mkedge e2 l 0 12
face_of f e1 e2; revol r f 0 0 0 0 0 1 200; out apple-part r

# extrusions and revolutions of other curves
ellipse k 0 0 0 0 0 1 20 10; mkedge e k; face_of f e; prism r f 0 0 15; out elliptic-prism r
prism r f 6 0 15; out leaning-elliptic-prism r
hyperbola k 0 0 0 0 0 1 10 6; mkedge e1 k -1 1
set q [expr 10*cosh(1.0)]; set w [expr 6*sinh(1.0)]
line l $q $w 0 0 -1 0; mkedge e2 l 0 [expr 2*$w]
face_of f e1 e2; prism r f 0 0 8; out hyperbolic-prism r
parabola k 0 0 0 0 0 1 5; mkedge e1 k -20 20
line l 20 20 0 0 -1 0; mkedge e2 l 0 40
face_of f e1 e2; prism r f 0 0 8; out parabolic-prism r
beziercurve k 4 10 0 0  24 0 6  2 0 14  12 0 20
mkedge e1 k; line l 12 0 20 -1 0 0; mkedge e2 l 0 12; line l 0 0 20 0 0 -1; mkedge e3 l 0 20; line l 0 0 0 1 0 0; mkedge e4 l 0 10
face_of f e1 e2 e3 e4; revol r f 0 0 0 0 0 1 360; out vase r
revol r f 0 0 0 0 0 1 120; out vase-part r

# fillets, blends, lofts, sweeps
box b 60 40 20
explode b e
set all {}; foreach i {1 2 3 4 5 6 7 8 9 10 11 12} { lappend all 3 b_$i }
eval blend r b $all; out rounded-block r
blend r b 4 b_1 4 b_2 4 b_5; out rounded-corner r
box b 60 40 20; pcylinder y 10 20; ttranslate y 30 20 10; bfuse u b y; explode u e
set ring {}
foreach i [lrange [directory u_*] 0 end] { if {[regexp {^u_[0-9]+$} $i]} {
  if {[catch {lprops $i} m]} continue
  regexp {Mass\s*:\s*([-+0-9.eE]+)} $m x len
  if {abs($len-62.8318)<0.01} { lappend ring 2 $i } } }
eval blend r u [lrange $ring 0 1]; out boss-with-fillet r
circle k 0 0 0 15; mkedge e k; wire w1 e
ellipse k 0 0 30 0 0 1 20 8; mkedge e k; wire w2 e
thrusections r 1 0 w1 w2; out loft r
polyline q1 0 0 0 30 0 0 30 20 0 0 20 0 0 0 0
polyline q2 5 5 25 25 5 25 25 15 25 5 15 25 5 5 25
thrusections r 1 1 q1 q2; out tapered-block r
polyline q3 8 -3 50 34 2 50 28 24 50 2 19 50 8 -3 50
thrusections r 1 0 q1 q2 q3; out twisted-loft r
beziercurve k 4 0 0 0  0 0 30  40 0 20  40 0 60
mkedge e k; wire sp e; circle c 0 0 0 0 0 1 5; mkedge e c; wire w e; mkplane f w
pipe r sp f; out bent-rod r

# the same as splines
psphere s 20; nurbsconvert r s; out sphere-as-spline r
ptorus s 20 5; nurbsconvert r s; out torus-as-spline r
box b 60 40 20; pcylinder y 8 40; ttranslate y 30 20 -5; bcut u b y; nurbsconvert r u; out drilled-block-as-splines r

# voids, several bodies, other ways to write a body
box b 40 40 40; psphere s 10; ttranslate s 20 20 20; bcut r b s; out block-with-void r
box b 30 20 10; psphere s 8; ttranslate s 60 0 0; compound b s r; out two-bodies r
box b 30 20 10; pcylinder y 5 20; ttranslate y 15 10 -5; bcut r b y; out shells r s
box b 30 20 10; box y 5 5 20; ttranslate y 10 10 -5; bcut r b y; out faceted r f
pcylinder y 10 30; offsetshape r y 3; out grown-cylinder r

# an assembly: a plate and one pin twice, the second turned over; the pin is
# orange, one layer is named
pload OCAF
NewDocument D BinXCAF
box b 60 40 10; pcylinder y 4 30
set plate [XAddShape D b 0]; SetName D $plate "Base plate"
set pin [XAddShape D y 0]; SetName D $pin "Pin"
XSetColor D $pin 1 0.5 0
XSetLayer D $plate "Machined"
set asm [XNewShape D]; SetName D $asm "Gauge stand"
copy b c1; XAddComponent D $asm b
ttranslate y 10 10 10; XAddComponent D $asm y
trotate y 0 0 0 1 0 0 180; ttranslate y 0 40 60; XAddComponent D $asm y
XUpdateAssemblies D
WriteStep D $env(OUT)/assembly.step
