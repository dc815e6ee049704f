#!/usr/bin/env python3
"""Writes the demo and trial parts as STEP files with Debian's gmsh (built-in solid kernel).

usage: author.py [NAME...]      needs: apt-get install gmsh

Each part is a short list of solids to add and to cut, in millimetres, so that
the files the reader meets were not written by the reader's authors.
"""
import math, pathlib, re, subprocess, sys, tempfile

HERE = pathlib.Path(__file__).resolve().parent


def own_header(name, text):
    """Names the part and its maker instead of the writing software; fixes the date."""
    head = ("HEADER;\nFILE_DESCRIPTION(('Demo part'),'2;1');\n"
            f"FILE_NAME('{name}','2026-11-02T08:00:00',('Design office'),('Fennmark Instrument Works'),'','','');\n"
            "FILE_SCHEMA(('AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }'));\nENDSEC;\n")
    text = re.sub(r"HEADER;.*?ENDSEC;\n", lambda _: head, text, count=1, flags=re.S)
    product = name.replace("-", " ").capitalize()
    return re.sub(r"'Open CASCADE[^']*'", f"'{product}'", text)


class Script:
    def __init__(self):
        self.lines = ['SetFactory("OpenCASCADE");', "Geometry.OCCAutoFix = 0;"]
        self.next = 100

    def new(self, text):
        self.next += 1
        self.lines.append(text % self.next)
        return self.next

    def box(self, x, y, z, dx, dy, dz):
        return self.new(f"Box(%d) = {{{x},{y},{z},{dx},{dy},{dz}}};")

    def cyl(self, x, y, z, h, r):
        return self.new(f"Cylinder(%d) = {{{x},{y},{z},0,0,{h},{r}}};")

    def cone(self, x, y, z, h, r1, r2):
        return self.new(f"Cone(%d) = {{{x},{y},{z},0,0,{h},{r1},{r2}}};")

    def union(self, a, *b):
        tools = ",".join(map(str, b))
        return self.new(f"BooleanUnion(%d) = {{ Volume{{{a}}}; Delete; }}{{ Volume{{{tools}}}; Delete; }};")

    def cut(self, a, *b):
        tools = ",".join(map(str, b))
        return self.new(f"BooleanDifference(%d) = {{ Volume{{{a}}}; Delete; }}{{ Volume{{{tools}}}; Delete; }};")

    def rounded(self, x, y, z, dx, dy, dz, r):
        """A block with vertical corners of radius r, from boxes and cylinders."""
        parts = [self.box(x + r, y, z, dx - 2 * r, dy, dz)]
        parts.append(self.box(x, y + r, z, dx, dy - 2 * r, dz))
        for cx in (x + r, x + dx - r):
            for cy in (y + r, y + dy - r):
                parts.append(self.cyl(cx, cy, z, dz, r))
        return self.union(*parts)

    def slot(self, x0, x1, y, z, dz, r):
        """An obround along x between two end centres."""
        return self.union(self.box(x0, y - r, z, x1 - x0, 2 * r, dz),
                          self.cyl(x0, y, z, dz, r), self.cyl(x1, y, z, dz, r))

    def turned(self, volume, point, axis, degrees):
        turn = f"{{{','.join(map(str, axis))}}}, {{{','.join(map(str, point))}}}, {degrees}*Pi/180"
        self.lines.append(f"Rotate {{ {turn} }} {{ Volume{{{volume}}}; }}")
        return volume

    def write(self, name, folder="demo/parts"):
        with tempfile.TemporaryDirectory() as d:
            geo = pathlib.Path(d, name + ".geo")
            geo.write_text("\n".join(self.lines + [f'Save "{name}.step";']) + "\n")
            out = subprocess.run(["gmsh", "-0", geo.name, "-v", "2"], cwd=d, capture_output=True, text=True)
            step = pathlib.Path(d, name + ".step")
            if not step.exists():
                sys.exit(f"{name}: {out.stdout}{out.stderr}")
            text = own_header(name, step.read_text())
            HERE.parent.parent.joinpath(folder, name + ".step").write_text(text)
            print(name, len(text), "bytes")


def gauge_lid():
    """River-gauge housing lid: closed pocket with an island, counterbored bolt holes."""
    s = Script()
    body = s.rounded(0, 0, 0, 96, 71, 18, 9)
    pocket = s.rounded(20, 14, 6, 56, 43, 13, 7)
    island = s.union(s.box(42, 30, 0, 12, 11, 15), s.cyl(42, 35.5, 0, 15, 5.5), s.cyl(54, 35.5, 0, 15, 5.5))
    pocket = s.cut(pocket, island)
    tools = [pocket]
    for x in (9, 87):
        for y in (9, 62):
            tools.append(s.cyl(x, y, -1, 20, 3.3))
            tools.append(s.cyl(x, y, 11.4, 10, 5.5))
    tools.append(s.cyl(48, 35.5, 5, 20, 2.1))
    s.cut(body, *tools)
    s.write("gauge-lid")


def sensor_bracket():
    """Sensor bracket: a step, two slots (one open), drilled and deep holes."""
    s = Script()
    body = s.box(0, 0, 0, 80, 50, 24)
    tools = [
        s.box(50, -1, 14, 31, 52, 11),               # step
        s.slot(58, 70, 25, -1, 30, 4.25),            # through slot in the step
        s.box(-1, 20, 16, 30, 10, 9),                # open slot
        s.cyl(29, 25, 16, 9, 5),                     # its round end
        s.union(s.cyl(12, 9, 6, 20, 2.5), s.cone(12, 9, 4.5, 1.5, 0.0, 2.5)),
        s.union(s.cyl(12, 41, 6, 20, 2.5), s.cone(12, 41, 4.5, 1.5, 0.0, 2.5)),
        s.cyl(42, 10, -1, 30, 3.0),
        s.cyl(42, 40, -1, 30, 3.0),
        s.cyl(57, 10, -1, 30, 2.25),
        s.cyl(71, 10, -1, 30, 2.25),
        s.cyl(57, 40, -1, 30, 2.25),
        s.cyl(71, 40, -1, 30, 2.25),
    ]
    s.cut(body, *tools)
    s.write("sensor-bracket")


def valve_manifold():
    """Manifold block: bores milled and drilled, a wide shallow pocket, a chamfered rim."""
    s = Script()
    body = s.rounded(0, 0, 0, 70, 70, 30, 6)
    tools = [
        s.rounded(10, 10, 25, 50, 50, 6, 5),
        s.cyl(35, 35, -1, 40, 11),
        s.cyl(35, 35, 18, 20, 15),
        s.cone(18, 18, 24, 1.001, 4.0, 5.001),
        s.cyl(18, 18, -1, 30, 4.0),
        s.cyl(52, 52, 8, 20, 4.0),
        s.cyl(18, 52, -1, 40, 3.4),
        s.cyl(52, 18, -1, 40, 3.4),
    ]
    s.cut(body, *tools)
    s.write("valve-manifold")


TRIALS = "shop/testdata"


def sharp():
    """Sharp inside corners, odd hole sizes, a flat-bottomed hole; inch sizes."""
    s = Script()
    s.cut(s.box(0, 0, 0, 101.6, 63.5, 19.05), s.box(12, 12, 9, 40, 30, 12), s.cyl(80, 15, -1, 30, 2.85),
          s.cyl(80, 45, -1, 30, 6.35), s.cyl(65, 30, -1, 30, 2.5), s.cyl(90, 30, 10, 20, 4.1))
    s.write("sharp", TRIALS)


def openpocket():
    """Pockets open at one side, a narrow slot across them, a corner step."""
    s = Script()
    s.cut(s.box(0, 0, 0, 70, 60, 22), s.box(20, -1, 12, 30, 40, 12), s.box(-1, 45, 14, 80, 3.5, 10), s.box(58, -1, 6, 20, 30, 20))
    s.write("openpocket", TRIALS)


def boss():
    """A round boss with a bore on a plate."""
    s = Script()
    s.cut(s.union(s.box(0, 0, 0, 60, 60, 12), s.cyl(30, 30, 12, 10, 14)), s.cyl(30, 30, -1, 40, 5))
    s.write("boss", TRIALS)


def disc():
    """A round part with a bolt circle and two openings right through."""
    s = Script()
    bolts = [s.cyl(30 * math.cos(i * math.pi / 3), 30 * math.sin(i * math.pi / 3), -1, 20, 2.75) for i in range(6)]
    s.cut(s.cyl(0, 0, 0, 14, 40), *bolts, s.slot(-8, 8, 0, -1, 20, 5), s.rounded(-10, 12, -1, 20, 10, 20, 2.6))
    s.write("disc", TRIALS)


def nested():
    """Pockets in pockets, an island, holes in their floors."""
    s = Script()
    s.cut(s.box(0, 0, 0, 90, 70, 30), s.cut(s.rounded(8, 8, 22, 74, 54, 10, 6), s.cyl(60, 35, 0, 26, 8)),
          s.rounded(14, 14, 14, 34, 42, 10, 5), s.rounded(20, 20, 6, 20, 30, 10, 4), s.cyl(30, 35, -1, 10, 3.4), s.cyl(60, 35, -1, 40, 2.5))
    s.write("nested", TRIALS)


def sides():
    """Blind flat-bottomed holes, a counterbore from below, a hole from the side."""
    s = Script()
    s.cut(s.box(0, 0, 0, 80, 40, 20), s.cyl(15, 20, 8, 20, 5), s.cyl(40, 20, 12, 20, 8), s.cyl(65, 20, -1, 30, 3.3), s.cyl(65, 20, -1, 6, 5.5),
          s.new("Cylinder(%d) = {-1,10,10,82,0,0,2.5};"))
    s.write("sides", TRIALS)


def ell():
    """An L with a sharp inside corner outside, a slot that a hole runs into."""
    s = Script()
    s.cut(s.union(s.rounded(0, 0, 0, 120, 30, 16, 8), s.rounded(0, 0, 0, 30, 90, 16, 8)), s.slot(45, 100, 15, 8, 10, 6),
          s.cyl(15, 70, -1, 30, 7), s.rounded(6, 35, 10, 18, 20, 10, 3.2), s.cyl(108, 15, -1, 20, 3.25))
    s.write("ell", TRIALS)


def bevel():
    """Bevelled top edges that meet in mitres, two countersinks."""
    s = Script()
    cuts = [s.turned(s.box(-10, 39, 15, 80, 10, 10), (0, 39, 15), (1, 0, 0), -45),
            s.turned(s.box(-10, -9, 15, 80, 10, 10), (0, 1, 15), (1, 0, 0), 45),
            s.turned(s.box(59, -10, 15, 10, 60, 10), (59, 0, 15), (0, 1, 0), 45),
            s.turned(s.box(-9, -10, 15, 10, 60, 10), (1, 0, 15), (0, 1, 0), -45)]
    s.cut(s.box(0, 0, 0, 60, 40, 15), *cuts, s.cyl(30, 20, -1, 20, 5), s.cone(30, 20, 14, 1.001, 5, 6.001),
          s.cyl(15, 12, -1, 20, 3.3), s.cone(15, 12, 14.2, 0.801, 3.3, 4.101))
    s.write("bevel", TRIALS)


def rim():
    """A round part with a bevelled rim and a pocket."""
    s = Script()
    s.cut(s.union(s.cyl(0, 0, 0, 11, 30), s.cone(0, 0, 11, 1, 30, 29)), s.rounded(-12, -8, 5, 24, 16, 20, 4))
    s.write("rim", TRIALS)


def coneboss():
    """A conical boss that no flat tool makes, its foot near the plate's edge."""
    s = Script()
    s.cut(s.union(s.box(0, 0, 0, 60, 40, 10), s.cone(30, 20, 10, 12, 14, 6)), s.cyl(30, 20, -1, 40, 2.5))
    s.write("coneboss", TRIALS)


def halfround():
    """A lying half cylinder on a plate."""
    s = Script()
    s.union(s.box(0, 0, 0, 60, 40, 10), s.new("Cylinder(%d) = {0,20,10,60,0,0,10};"))
    s.write("halfround", TRIALS)


def cross():
    """Two slots that cross at different depths, a bore in the crossing."""
    s = Script()
    s.cut(s.box(0, 0, 0, 80, 60, 25), s.box(-1, 25, 10, 82, 10, 20), s.box(35, -1, 5, 10, 62, 25), s.cyl(40, 30, -1, 30, 9))
    s.write("cross", TRIALS)


def breakout():
    """A pocket that a slot breaks open at a higher level."""
    s = Script()
    s.cut(s.box(0, 0, 0, 80, 60, 25), s.box(10, 10, 10, 60, 40, 20), s.box(20, -1, 15, 40, 12, 20))
    s.write("breakout", TRIALS)


PARTS = {"gauge-lid": gauge_lid, "sensor-bracket": sensor_bracket, "valve-manifold": valve_manifold,
         "sharp": sharp, "openpocket": openpocket, "boss": boss, "disc": disc, "nested": nested, "sides": sides, "ell": ell, "bevel": bevel, "rim": rim,
         "coneboss": coneboss, "halfround": halfround, "cross": cross, "breakout": breakout}

if __name__ == "__main__":
    for wanted in sys.argv[1:] or PARTS:
        PARTS[wanted]()
