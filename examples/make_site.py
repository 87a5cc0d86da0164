#!/usr/bin/env python3
"""Makes the invented ground of Alder Quay: a survey of existing points, a drawing of curbs and walls, a finished surface.

Run from the project's root: python3 examples/make_site.py. Everything is computed from formulas: no real place.
"""
import json, math, os

here = os.path.dirname(os.path.abspath(__file__))
project = json.load(open(os.path.join(here, "alder-quay.culvert")))
rims = [(s["x"], s["y"], s["rim"]) for s in project["structures"]]


def ground(x, y):
    """The rims joined smoothly (inverse distances to the third power), with a slow swell between them."""
    weight = level = 0.0
    for rx, ry, rz in rims:
        d2 = (x - rx) ** 2 + (y - ry) ** 2 + 4.0
        w = 1.0 / d2 ** 1.5
        weight += w
        level += w * rz
    return level / weight + 0.12 * math.sin(x / 47.0) * math.cos(y / 61.0)


def existing(x, y):
    """The old ground: rougher and, by the quay, lower; two hollows where water stands."""
    z = ground(x, y) - 0.25 - 0.3 * max(0.0, (x - 420.0) / 200.0)
    for cx, cy, depth, width in ((430, 460, 0.9, 26), (140, 300, 0.6, 20)):
        z -= depth * math.exp(-((x - cx) ** 2 + (y - cy) ** 2) / (2 * width * width))
    return z + 0.05 * math.sin(x / 5.3) * math.sin(y / 6.1)


streets = [("Ropewalk", [(96, 420), (196, 404), (268, 386), (346, 356), (406, 316), (466, 272), (534, 236), (590, 210)]),
           ("Mill Street", [(222, 540), (232, 474), (246, 428), (266, 384)]),
           ("Garth Street", [(292, 188), (340, 232), (376, 270), (404, 314)])]


def offset(line, d):
    out = []
    for i, (x, y) in enumerate(line):
        a = line[max(0, i - 1)]
        b = line[min(len(line) - 1, i + 1)]
        dx, dy = b[0] - a[0], b[1] - a[1]
        l = math.hypot(dx, dy)
        out.append((x + d * dy / l, y - d * dx / l))
    return out


with open(os.path.join(here, "site", "alder-quay-survey.csv"), "w") as f:
    f.write("Point;Easting (m);Northing (m);Level (m);Line\n")
    n = 1000
    for i in range(0, 90):
        for j in range(0, 76):
            x = 60 + i * 6.4 + 2.1 * math.sin(i * 1.7 + j * 2.9)
            y = 130 + j * 6.0 + 1.9 * math.cos(i * 2.3 + j * 1.1)
            n += 1
            f.write(f"{n};{x:.3f};{y:.3f};{existing(x, y):.3f};\n")
    for name, line in streets:
        for side in (-4, 4):
            for x, y in offset(line, side):
                n += 1
                f.write(f"{n};{x:.3f};{y:.3f};{existing(x, y):.3f};{name} {'left' if side < 0 else 'right'} curb\n")

with open(os.path.join(here, "site", "alder-quay-plan.dxf"), "w") as f:
    def pair(code, value):
        f.write(f"{code}\n{value}\n")

    pair(0, "SECTION"), pair(2, "HEADER"), pair(9, "$INSUNITS"), pair(70, 6), pair(0, "ENDSEC")
    pair(0, "SECTION"), pair(2, "ENTITIES")

    def polyline(layer, points, closed=False):
        pair(0, "LWPOLYLINE"), pair(8, layer), pair(90, len(points)), pair(70, 1 if closed else 0)
        for x, y in points:
            pair(10, f"{x:.3f}"), pair(20, f"{y:.3f}")

    for name, line in streets:
        polyline("curbs", offset(line, -4))
        polyline("curbs", offset(line, 4))
        polyline("walls", offset(line, -9))
        polyline("walls", offset(line, 9))
    for k, (cx, cy, w, h) in enumerate([(130, 470, 44, 26), (320, 300, 40, 30), (300, 440, 60, 34), (430, 360, 46, 30), (500, 170, 50, 26),
                                        (190, 330, 52, 30), (560, 390, 44, 28), (250, 260, 40, 26)]):
        polyline("buildings", [(cx - w / 2, cy - h / 2), (cx + w / 2, cy - h / 2 + 3), (cx + w / 2 - 2, cy + h / 2), (cx - w / 2, cy + h / 2 - 2)], True)
    polyline("old drain", [(300, 440), (330, 410), (352, 360)])
    polyline("old drain", [(352, 360), (400, 330)])
    for x, y, words in ((100, 428, "ROPEWALK"), (236, 500, "MILL STREET"), (316, 204, "GARTH STREET")):
        pair(0, "TEXT"), pair(8, "names"), pair(10, x), pair(20, y), pair(40, 5), pair(1, words)
    pair(0, "ENDSEC"), pair(0, "EOF")

# The finished ground: the street corridors and the squares between them, graded to the rims.
with open(os.path.join(here, "site", "alder-quay-finished.xml"), "w") as f:
    points, index = [], {}
    nx, ny, x0, y0, d = 64, 52, 84.0, 170.0, 8.0
    for i in range(nx):
        for j in range(ny):
            x, y = x0 + i * d, y0 + j * d
            index[(i, j)] = len(points) + 1
            points.append((x, y, ground(x, y)))
    faces = []
    for i in range(nx - 1):
        for j in range(ny - 1):
            a, b, c, e = index[(i, j)], index[(i + 1, j)], index[(i + 1, j + 1)], index[(i, j + 1)]
            faces += [(a, b, c), (a, c, e)]
    f.write('<?xml version="1.0"?>\n<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2" version="1.2">\n')
    f.write('<Units><Metric linearUnit="meter" areaUnit="squareMeter" volumeUnit="cubicMeter"/></Units>\n')
    f.write('<Surfaces><Surface name="finished ground"><Definition surfType="TIN"><Pnts>\n')
    for k, (x, y, z) in enumerate(points):
        f.write(f'<P id="{k + 1}">{y:.3f} {x:.3f} {z:.3f}</P>\n')
    f.write("</Pnts><Faces>\n")
    for a, b, c in faces:
        f.write(f"<F>{a} {b} {c}</F>\n")
    f.write("</Faces></Definition></Surface></Surfaces></LandXML>\n")

# Streets in the demo project, and the structures that stand on them.
known = {s["name"]: s for s in project.get("streets", [])}
rows = []
for k, (name, line) in enumerate(streets):
    rows.append({"id": f"{0x57ee7000 + k:016x}", "name": name, "line": [list(p) for p in line], "lane_width": 3.5,
                 "gutter_width": 0.5, "curb_height": 0.12, "verge_width": 4.5})
    for s in project["structures"]:
        best = None
        station = 0.0
        for a, b in zip(line, line[1:]):
            dx, dy = b[0] - a[0], b[1] - a[1]
            l = math.hypot(dx, dy)
            t = max(0.0, min(1.0, ((s["x"] - a[0]) * dx + (s["y"] - a[1]) * dy) / (l * l)))
            fx, fy = a[0] + t * dx, a[1] + t * dy
            away = math.hypot(s["x"] - fx, s["y"] - fy)
            side = (s["x"] - a[0]) * dy - (s["y"] - a[1]) * dx
            if best is None or away < best[0]:
                best = (away, station + t * l, away if side > 0 else -away)
            station += l
        if best[0] <= 8.5 and 0 < best[1] < station and ("street" not in s or s["street"] == rows[-1]["id"]):
            s["street"], s["station"], s["offset"] = rows[-1]["id"], round(best[1], 3), round(best[2], 3)
project["streets"] = rows
json.dump(project, open(os.path.join(here, "alder-quay.culvert"), "w"))
