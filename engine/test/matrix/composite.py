"""Rasters of several bands, and whether a picture is three of them, told by numpy and GDAL (python3-gdal).
make FOLDER: bands16.tif (five bands of 16 bits, one without a value here and there), bytes.tif (four bands of bytes)
compare SOURCE PICTURE R,G,B F:T,F:T,F:T: counts pixels that are otherwise than the bands spread from F to T over 256 levels
"""
import json
import sys

import numpy
from osgeo import gdal, osr

gdal.UseExceptions()
W, H = 61, 47


def make(folder):
    srs = osr.SpatialReference()
    srs.ImportFromEPSG(32624)
    y, x = numpy.indices((H, W))
    for name, kind, count, scale in (("bands16", gdal.GDT_UInt16, 5, 37), ("bytes", gdal.GDT_Byte, 4, 1)):
        ds = gdal.GetDriverByName("GTiff").Create(f"{folder}/{name}.tif", W, H, count, kind, ["PHOTOMETRIC=MINISBLACK"])
        ds.SetGeoTransform([500000, 10, 0, 4870000, 0, -10])
        ds.SetProjection(srs.ExportToWkt())
        for b in range(count):
            values = ((x * (b + 2) + y * (7 - b)) % 251 + b) * scale
            if name == "bands16":
                values[(x + y * (b + 1)) % 19 == 0] = 65535
            ds.GetRasterBand(b + 1).WriteArray(values)
        if name == "bands16":
            ds.GetRasterBand(1).SetNoDataValue(65535)
        ds = None


def compare(source, picture, bands, levels):
    src, pic = gdal.Open(source), gdal.Open(picture)
    shown = numpy.ones((H, W), bool)
    wanted = []
    for b, (low, high) in zip(bands, levels):
        band = src.GetRasterBand(b)
        values = band.ReadAsArray().astype(float)
        if band.GetNoDataValue() is not None:
            shown &= values != band.GetNoDataValue()
        wanted.append(numpy.clip(numpy.floor((values - low) / (high - low) * 255 + 0.5), 0, 255))
    seen = [pic.GetRasterBand(i + 1).ReadAsArray(0, 0, W, H).astype(float) for i in range(4)]
    wrong = (seen[3] > 0) != shown
    for a, b in zip(wanted, seen):
        wrong |= shown & (a != b)
    print(json.dumps({"wrong": int(wrong.sum()), "hidden": int((~shown).sum()), "shown": int(shown.sum())}))


if sys.argv[1] == "make":
    make(sys.argv[2])
else:
    compare(sys.argv[2], sys.argv[3], [int(b) for b in sys.argv[4].split(",")], [[float(n) for n in l.split(":")] for l in sys.argv[5].split(",")])
