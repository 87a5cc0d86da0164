#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Writes examples/fern-hollow.culvert: an invented housing site with a pond, and the site before it as a variant.

    python3 examples/make_pond.py [before]      with "before": the site before as a project of its own, to standard output
"""
import json
import sys

ids = {}


def ident(kind, name):
    return ids.setdefault((kind, name), "%016x" % (0xFE520000 + len(ids) + 1))


def structure(name, kind, x, y, rim, **more):
    return {"id": ident("s", name), "name": name, "kind": kind, "x": x, "y": y, "rim": rim, **more}


def pipe(a, b, size, start, end, wall=65):
    return {"id": ident("p", a + b), "from": ident("s", a), "to": ident("s", b), "size": size, "roughness": 0.013,
            "wall": wall, "invert_from": start, "invert_to": end, "material": "concrete"}


def catchment(name, to, area, time, number, paved, outline):
    return {"id": ident("c", name), "name": name, "structure": ident("s", to), "area": area, "time": time,
            "coefficient": round(0.2 + 0.7 * paved, 2), "curve_number": number, "impervious": paved, "outline": outline}


structures = [
    structure("A1", "inlet", 80, 250, 48.6), structure("A2", "inlet", 140, 232, 47.6),
    structure("A3", "inlet", 200, 208, 46.5), structure("A4", "manhole", 250, 172, 45.4),
    structure("B1", "inlet", 90, 130, 47.3), structure("B2", "inlet", 150, 128, 46.4),
    structure("B3", "inlet", 212, 134, 45.5), structure("P1", "pond", 288, 128, 44.9),
    structure("C1", "manhole", 346, 112, 44.6), structure("C2", "manhole", 400, 92, 43.9),
    structure("Fern Brook", "outfall", 452, 74, 43.4, tailwater="free"),
]
pipes = [
    pipe("A1", "A2", 375, 47.20, 46.30), pipe("A2", "A3", 525, 46.15, 45.10), pipe("A3", "A4", 600, 45.00, 43.95),
    pipe("A4", "P1", 675, 43.85, 43.30), pipe("B1", "B2", 375, 45.90, 45.05), pipe("B2", "B3", 525, 44.90, 44.10),
    pipe("B3", "P1", 600, 44.00, 43.30), pipe("C1", "C2", 675, 41.95, 41.60, 80),
    pipe("C2", "Fern Brook", 675, 41.57, 41.20, 80),
]
catchments = [
    catchment("Larch Row", "A1", 0.42, 8, 74, 0.5, [[40, 232], [110, 218], [118, 286], [52, 290]]),
    catchment("Larch Row east", "A2", 0.46, 8, 74, 0.55, [[110, 218], [170, 196], [184, 264], [118, 286]]),
    catchment("Upper Green", "A3", 0.52, 10, 72, 0.45, [[170, 196], [226, 160], [262, 226], [184, 264]]),
    catchment("Weir Side", "B1", 0.38, 9, 76, 0.5, [[50, 100], [120, 98], [122, 168], [54, 176]]),
    catchment("Weir Side east", "B2", 0.44, 9, 76, 0.55, [[120, 98], [182, 96], [186, 162], [122, 168]]),
    catchment("School Yard", "B3", 0.48, 7, 78, 0.7, [[182, 96], [244, 88], [250, 152], [186, 162]]),
    catchment("Pond Meadow", "P1", 0.55, 15, 68, 0.08, [[244, 88], [330, 76], [340, 150], [266, 178], [250, 152]]),
]
minutes = [5, 10, 15, 20, 30, 45, 60, 90, 120, 180, 360, 720, 1440]
events = []
for name, years, role, factor in (("2 years", 2, "minor", 0.62), ("10 years", 10, "other", 1.0),
                                  ("100 years", 100, "major", 1.55)):
    events.append({"id": ident("e", name), "name": name, "return_period": years, "role": role,
                   "durations": minutes,
                   "intensities": [round(factor * 1450 / (t + 12) ** 0.82, 2) for t in minutes]})
pond = {"id": ident("o", "Fern pond"), "name": "Fern pond", "structure": ident("s", "P1"), "storage_by": "outline",
        "bottom": 42.6, "depth": 2.2, "sides": 3, "crest": 44.8,
        "outline": [[277, 119.6], [299, 113.4], [308.4, 124.2], [302, 138.8], [282.6, 142]]}
outlets = [
    {"id": ident("w", "low opening"), "name": "low opening", "structure": ident("s", "P1"), "to": ident("s", "C1"),
     "kind": "circular orifice", "level": 42.6, "size": 130},
    {"id": ident("w", "middle slot"), "name": "middle slot", "structure": ident("s", "P1"), "to": ident("s", "C1"),
     "kind": "box orifice", "level": 43.35, "size": 150, "width": 0.6},
    {"id": ident("w", "upper crest"), "name": "upper crest", "structure": ident("s", "P1"), "to": ident("s", "C1"),
     "kind": "sharp weir", "level": 43.7, "width": 0.5},
    {"id": ident("w", "spillway"), "name": "spillway", "structure": ident("s", "P1"), "kind": "broad weir",
     "level": 44.4, "width": 6, "overflow": True},
]
allowed = {"2 years": 30, "10 years": 160, "100 years": 440}
releases = [{"id": ident("r", k), "structure": ident("s", "P1"), "event": ident("e", k), "flow": v,
             "source": "site before building, rounded down to 5 l/s"} for k, v in allowed.items()]
settings = {"id": "0000000000000001", "title": "Fern Hollow", "place": "an invented housing site", "system": "SI",
            "runoff_by": "unit hydrograph", "curve_number": 74, "computing_step": 1, "output_interval": 10,
            "length_basis": "between centres"}
limits = [{"id": ident("l", k), "kind": k, "value": v, "source": "usual practice; replace it by your authority's", **more}
          for k, v, more in (("most flow ratio", 1, {"system": "minor system"}), ("most velocity", 4, {}),
                             ("least freeboard", 0.15, {}))]
old_cn = {"Larch Row": 66, "Larch Row east": 66, "Upper Green": 64, "Weir Side": 68, "Weir Side east": 68,
          "School Yard": 68, "Pond Meadow": 66}


def change(kind, row, field, before, after):
    return {"patch": kind, "id": row["id"], "field": field, "before": before, "after": after,
            "origins": ["typed", "typed"]}


# The site before: meadow, slower ways, no pond; what comes to its place runs on through the old pipe.
changes = []
for c in catchments:
    changes.append(change("catchment", c, "curve_number", c["curve_number"], old_cn[c["name"]]))
    changes.append(change("catchment", c, "impervious", c["impervious"], 0.02))
    changes.append(change("catchment", c, "time", c["time"] * 60.0, 25 * 60.0))
before = {"id": ident("v", "before"), "name": "before building",
          "changes": None, "note": "meadow as it was surveyed; no pond"}


def project(is_before):
    cs = [dict(c) for c in catchments]
    ps, ss = [dict(p) for p in pipes], [dict(s) for s in structures]
    out = {"calm-culvert": 2, "settings": settings, "structures": ss, "pipes": ps, "catchments": cs, "events": events,
           "limits": limits}
    if is_before:
        for c in cs:
            c.update(curve_number=old_cn[c["name"]], impervious=0.02, time=25)
        for s in ss:
            if s["name"] == "P1":
                s["kind"] = "manhole"
        ps.append(pipe("P1", "C1", 675, 42.6, 42.0, 80))
    else:
        out.update(ponds=[pond], outlets=outlets, releases=releases)
    return out


if len(sys.argv) > 1 and sys.argv[1] == "before":
    json.dump(project(True), sys.stdout, indent=1)
else:
    site = project(False)
    si = {"size": 0.001}

    def row_si(r):  # rows inside an Edit are SI
        r = dict(r)
        for key, factor in (("size", 0.001), ("wall", 0.001), ("flow", 0.001)):
            if key in r:
                r[key] = round(r[key] * factor, 6)
        return r
    changes.append(change("structure", structures[7], "kind", "pond", "manhole"))
    for kind, rows in (("outlet", outlets), ("release", releases), ("pond", [pond])):
        for r in rows:
            row = row_si(r)
            changes.append({"delete": kind, "row": row})
    changes.append({"insert": "pipe", "row": row_si(pipe("P1", "C1", 675, 42.6, 42.0, 80))})
    before["changes"] = json.dumps({"name": "before building", "changes": changes}, separators=(",", ":"))
    site["variants"] = [before]
    json.dump(site, sys.stdout, indent=1)
