#!/usr/bin/env python3
"""Writes library.json, the shop library of the demo: tools, machines, materials, dialects."""
import json, pathlib

def holder(d):
    return [{"d1": d, "d2": d + 4, "length": 30}, {"d1": 46, "d2": 46, "length": 25}]

tools = []

def tool(name, kind, substrate, dc, apmx, stickout, zeff, shank=None, re=0, sig=0, tip=0, hold=None):
    tools.append({"id": len(tools) + 1, "name": name, "kind": kind, "substrate": substrate, "dc": dc, "re": re, "sig": sig,
                  "tip": tip, "apmx": apmx, "zeff": zeff, "shank": shank or dc, "stickout": stickout,
                  "holder": holder(hold or max(24, dc + 14)), "position": len(tools) + 1})

tool("Face mill 50", "face_mill", "insert", 50, 6, 45, 5, shank=40, hold=44)
tool("End mill 16", "end_mill", "carbide", 16, 34, 50, 3)
tool("End mill 12", "end_mill", "carbide", 12, 28, 42, 3)
tool("End mill 10", "end_mill", "carbide", 10, 24, 36, 3)
tool("End mill 8", "end_mill", "carbide", 8, 22, 34, 3)
tool("End mill 6", "end_mill", "carbide", 6, 20, 32, 3)
tool("End mill 4", "end_mill", "carbide", 4, 16, 26, 3)
tool("End mill 3", "end_mill", "carbide", 3, 12, 22, 3)
tool("Ball end mill 6", "ball_nose", "carbide", 6, 14, 30, 2, re=3)
tool("Spot drill 10 x 90", "spot_drill", "carbide", 10, 5, 30, 2, sig=90)
for d, l in ((2.5, 30), (3.3, 36), (4.2, 43), (4.5, 47), (5, 52), (5.5, 57), (6, 57), (6.6, 63), (6.8, 65), (8, 75), (8.5, 75), (10.2, 87)):
    tool(f"Drill {d:g}", "drill", "carbide" if d >= 5 else "hss", d, l, l + 10, 2, sig=118)
tool("Chamfer mill 10 x 90", "chamfer_mill", "carbide", 10, 4.5, 30, 4, sig=90, tip=1)

machines = [
    {"id": "bench-mill-3", "name": "Mill 1, 3 axes", "travel": [600, 400, 450], "max_rpm": 12000, "min_rpm": 50, "power_kw": 9, "torque_nm": 57,
     "max_feed": 10000, "rapid": 24000, "accel": 3500, "corner_tol": 0.02, "tool_change": 6, "spindle_time": 2, "efficiency": 0.8,
     "positions": 30, "dialect": "iso-cycles"},
    {"id": "old-mill-3", "name": "Mill 2, 3 axes, older", "travel": [500, 350, 400], "max_rpm": 6000, "min_rpm": 60, "power_kw": 5.5, "torque_nm": 35,
     "max_feed": 4000, "rapid": 10000, "accel": 1200, "corner_tol": 0.03, "tool_change": 12, "spindle_time": 3, "efficiency": 0.75,
     "positions": 24, "dialect": "iso-plain"},
]

def speeds(vc_mill, vc_hss_drill, vc_drill, vc_face, fz, fz_face, frev):
    rows = []
    def row(use, sub, vc, f, lo, hi):
        rows.append({"use": use, "substrate": sub, "vc": vc, "fz_per_d": f, "fz_min": lo, "fz_max": hi})
    row("milling", "carbide", vc_mill, fz, 0.008, 0.12)
    row("facing", "insert", vc_face, fz_face / 50, 0.05, 0.25)
    row("facing", "carbide", vc_mill, fz, 0.02, 0.12)
    row("drilling", "carbide", vc_drill, frev, 0.03, 0.3)
    row("drilling", "hss", vc_hss_drill, frev * 0.8, 0.02, 0.25)
    row("spotting", "carbide", vc_drill * 0.8, frev * 0.5, 0.03, 0.15)
    row("chamfering", "carbide", vc_mill * 0.6, 0.006, 0.01, 0.08)
    return rows

materials = [
    {"id": "al-6082", "name": "Aluminium 6082-T6", "group": "N", "kc11": 700, "mc": 0.25, "density": 2.70,
     "speeds": speeds(320, 60, 140, 500, 0.0075, 0.15, 0.022)},
    {"id": "c45", "name": "Steel C45", "group": "P", "kc11": 1600, "mc": 0.25, "density": 7.85,
     "speeds": speeds(140, 25, 80, 180, 0.0055, 0.12, 0.018)},
    {"id": "x5crni", "name": "Stainless 1.4301", "group": "M", "kc11": 2000, "mc": 0.21, "density": 7.90,
     "speeds": speeds(80, 12, 45, 120, 0.0045, 0.1, 0.014)},
]

dialects = [
    {"id": "iso-cycles", "name": "ISO words with hole cycles", "cycles": True, "percent": True, "numbers": True, "decimals": 3,
     "home_word": "G53 G0 Z0.", "tool_change": "T%d M6", "extension": "nc", "program_word": "O"},
    {"id": "iso-plain", "name": "ISO words, no cycles", "cycles": False, "percent": True, "numbers": False, "decimals": 3,
     "home_word": "G91 G28 Z0.|G90", "tool_change": "T%d M6", "extension": "tap", "program_word": ""},
]

here = pathlib.Path(__file__).resolve().parent.parent
here.joinpath("library.json").write_text(json.dumps({"tools": tools, "machines": machines, "materials": materials, "dialects": dialects}, indent=1) + "\n")
print(len(tools), "tools")
