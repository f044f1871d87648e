"""Coverages of areas with gaps and overlaps, and what GEOS (python3-gdal) says of them.
FOLDER: writes a0.geojson, a1.geojson … and index.json: of each the number and the whole area of its gaps, and of the places that
several areas cover
"""
import json
import random
import sys

from osgeo import ogr

ogr.DontUseExceptions()
N = 9


def parts(g):
    if g is None or g.IsEmpty():
        return []
    if g.GetGeometryName() == "POLYGON":
        return [g.Clone()]
    return [p for i in range(g.GetGeometryCount()) for p in parts(g.GetGeometryRef(i))] if g.GetGeometryCount() and g.GetGeometryName() not in ("LINESTRING", "POINT") else []


def polygon(ring):
    return ogr.CreateGeometryFromJson(json.dumps({"type": "Polygon", "coordinates": [ring]}))


index = {}
for case in range(8):
    r = random.Random(case)
    corner = {(i, j): (i * 100 + r.uniform(-20, 20), j * 100 + r.uniform(-20, 20)) for i in range(N + 1) for j in range(N + 1)}
    cells = {}
    for i in range(N):
        for j in range(N):
            ring = [corner[i, j], corner[i + 1, j], corner[i + 1, j + 1], corner[i, j + 1], corner[i, j]]
            cells[i, j] = [list(p) for p in (ring if r.random() < 0.5 else ring[::-1])]
    inside = [(i, j) for i in range(1, N - 1) for j in range(1, N - 1)]
    r.shuffle(inside)
    for cell in inside[: case % 4]:
        del cells[cell]  # a gap
    for cell in inside[4 : 4 + case % 3]:
        # one corner is drawn elsewhere: a gap, an overlap, or both
        at = r.randrange(1, 4)
        x, y = cells[cell][at]
        cells[cell][at] = [x + r.uniform(-30, 30), y + r.uniform(-30, 30)]
    if case > 4:
        cells["again"] = cells[inside[8]]  # the same area twice
    shapes = [polygon(ring) for ring in cells.values()]
    whole = ogr.Geometry(ogr.wkbMultiPolygon)
    for s in shapes:
        whole.AddGeometry(s)
    union = whole.UnionCascaded()
    holes = [polygon([list(p)[:2] for p in p_.GetGeometryRef(k).GetPoints()]) for p_ in parts(union) for k in range(1, p_.GetGeometryCount())]
    over = None
    for a in range(len(shapes)):
        for b in range(a):
            if shapes[a].Intersects(shapes[b]):
                common = shapes[a].Intersection(shapes[b])
                if common is not None and common.Area() > 1e-9:
                    over = common if over is None else over.Union(common)
    places = [p for p in parts(over) if p.Area() > 1e-6]
    index[f"a{case}"] = {
        "gaps": len(holes),
        "gapArea": sum(h.Area() for h in holes),
        "overlaps": len(places),
        "overlapArea": sum(p.Area() for p in places),
    }
    features = [{"type": "Feature", "properties": {"n": n}, "geometry": json.loads(s.ExportToJson(["COORDINATE_PRECISION=17"]))} for n, s in enumerate(shapes)]
    for f, ring in zip(features, cells.values()):
        f["geometry"] = {"type": "Polygon", "coordinates": [ring]}
    with open(f"{sys.argv[1]}/a{case}.geojson", "w") as out:
        json.dump({"type": "FeatureCollection", "features": features}, out)
with open(f"{sys.argv[1]}/index.json", "w") as out:
    json.dump(index, out)
