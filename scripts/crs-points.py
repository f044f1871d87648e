"""Points of projected CRSs as PROJ computes them, over their areas of use.

Reads a JSON list of [code, west, south, east, north] from standard input; writes [code, base, metres a unit, points] for each, base being
the code of its geographic CRS and a point [longitude, latitude, x, y], in the units of either, east before north. Outside reference:
PROJ, through the osr module of Debian's python3-gdal.
"""
import json, sys
from osgeo import osr

osr.UseExceptions()
RADIAN = 0.017453292519943295
out = []
for code, west, south, east, north in json.load(sys.stdin):
    crs = osr.SpatialReference()
    try:
        crs.ImportFromEPSG(code)
        if not crs.IsProjected():
            continue
        base = crs.GetAuthorityCode('GEOGCS')
        crs.SetAxisMappingStrategy(osr.OAMS_TRADITIONAL_GIS_ORDER)
        geographic = crs.CloneGeogCS()
        geographic.SetAxisMappingStrategy(osr.OAMS_TRADITIONAL_GIS_ORDER)
        project = osr.CoordinateTransformation(geographic, crs)
    except RuntimeError:
        continue
    unit = geographic.GetAngularUnits()
    meridian = float(geographic.GetAttrValue('PRIMEM', 1) or 0)
    east = east + 360 if east < west else east
    points = []
    for i in range(5):
        for j in range(5):
            x = west + (east - west) * (0.02 + 0.24 * i)
            y = south + (north - south) * (0.02 + 0.24 * j)
            x = x - 360 if x > 180 else x
            at = ((x - meridian) * RADIAN / unit, y * RADIAN / unit)
            try:
                image = project.TransformPoint(*at)
            except RuntimeError:
                continue
            if abs(image[0]) < 1e15 and abs(image[1]) < 1e15:
                points.append([at[0], at[1], image[0], image[1]])
    if base and points:
        out.append([code, int(base), crs.GetLinearUnits(), points])
json.dump(out, sys.stdout)
