"""CRSs that the EPSG has no code for, as GDAL writes their texts, with points of PROJ: one line of JSON for each.

{"code", "esri": WKT 1 of the common dialect of .prj, "wkt2": the newer text, "json": PROJJSON, "points": [[degrees east, degrees
north, x, y], ...]}; the degrees are those of the geographic CRS below the projection. Argument: one of how many is taken.
"""
import json
import sys

from osgeo import gdal, osr

gdal.UseExceptions()
osr.UseExceptions()
gdal.PushErrorHandler('CPLQuietErrorHandler')
PARTS = (0.1, 0.5, 0.9)

EVERY = int(sys.argv[1])

for n, info in enumerate(osr.GetCRSInfoListFromDatabase('ESRI')):
    if n % EVERY != 0 or info.type != osr.OSR_CRS_TYPE_PROJECTED or info.deprecated or not info.bbox_valid:
        continue
    crs = osr.SpatialReference()
    try:
        crs.SetFromUserInput('ESRI:%s' % info.code)
        crs.SetAxisMappingStrategy(osr.OAMS_TRADITIONAL_GIS_ORDER)
        base = crs.CloneGeogCS()
        base.SetAxisMappingStrategy(osr.OAMS_TRADITIONAL_GIS_ORDER)
        change = osr.CoordinateTransformation(base, crs)
        west, south, east, north = info.west_lon_degree, info.south_lat_degree, info.east_lon_degree, info.north_lat_degree
        if east < west:
            east += 360
        points = []
        for a in PARTS:
            for b in PARTS:
                lon, lat = west + a * (east - west), south + b * (north - south)
                lon = lon - 360 if lon > 180 else lon
                x, y, _ = change.TransformPoint(lon, lat)
                if abs(x) < 1e9 and abs(y) < 1e9:
                    points.append([lon, lat, x, y])
        texts = {
            'esri': crs.ExportToWkt(['FORMAT=WKT1_ESRI']),
            'wkt2': crs.ExportToWkt(['FORMAT=WKT2_2019']),
            'json': crs.ExportToPROJJSON(),
        }
    except RuntimeError:
        continue
    print(json.dumps({'code': info.code, 'name': info.name, 'points': points, **texts}))
