"""Where PROJ puts points of geographic CRSs on WGS 84, over their areas of use, and the one shift that it would choose for each.

Reads a JSON list of [code, west, south, east, north] from standard input; writes [code, shift, points] for each whose unit is the degree:
the seven numbers of a shift by position vectors (metres, seconds of arc, parts per million) or null, and points [longitude from the
CRS's own meridian, latitude, longitude, latitude on WGS 84]. Points that PROJ only takes over without a shift are left out. Outside
reference: PROJ, through the osr module of Debian's python3-gdal, without grids.
"""
import json, sys
from osgeo import osr

osr.UseExceptions()
DEGREE = 0.0174532925199433
ACROSS = 5
wgs84 = osr.SpatialReference()
wgs84.ImportFromEPSG(4326)
wgs84.SetAxisMappingStrategy(osr.OAMS_TRADITIONAL_GIS_ORDER)
options = osr.CoordinateTransformationOptions()
options.SetBallparkAllowed(False)
out = []
for code, west, south, east, north in json.load(sys.stdin):
    crs = osr.SpatialReference()
    try:
        crs.ImportFromEPSG(code)
        if not crs.IsGeographic() or abs(crs.GetAngularUnits() - DEGREE) > 1e-12:
            continue
        crs.SetAxisMappingStrategy(osr.OAMS_TRADITIONAL_GIS_ORDER)
        to = osr.CoordinateTransformation(crs, wgs84, options)
    except RuntimeError:
        continue
    meridian = float(crs.GetAttrValue('PRIMEM', 1) or 0)
    east = east + 360 if east < west else east
    points = []
    for i in range(ACROSS):
        for j in range(ACROSS):
            x = west + (east - west) * (i + 0.5) / ACROSS - meridian
            y = south + (north - south) * (j + 0.5) / ACROSS
            try:
                image = to.TransformPoint(x - 360 if x > 180 else x, y)
            except RuntimeError:
                continue
            if abs(image[0]) < 1e6:
                points.append([x - 360 if x > 180 else x, y, image[0], image[1]])
    shift = None
    try:
        crs.AddGuessedTOWGS84()
        shift = list(crs.GetTOWGS84()) if crs.HasTOWGS84() else None
    except RuntimeError:
        pass
    out.append([code, shift, points])
json.dump(out, sys.stdout)
