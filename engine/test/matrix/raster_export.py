# Makes rasters with GDAL, and holds what was exported of them against them, value by value.
import json, os, sys
import numpy as np
from osgeo import gdal, osr

gdal.UseExceptions()
W, H = 37, 29


def made(path, arrays, kind, epsg=32624, nodata=None, north_up=True, options=(), colours=None, driver='GTiff'):
    ds = gdal.GetDriverByName(driver).Create(path, W, H, len(arrays), kind, list(options))
    ds.SetGeoTransform([500000, 10, 0, 4900000 + (0 if north_up else -10 * H), 0, -10 if north_up else 10])
    if epsg:
        srs = osr.SpatialReference()
        srs.ImportFromEPSG(epsg)
        ds.SetProjection(srs.ExportToWkt())
    for i, a in enumerate(arrays):
        band = ds.GetRasterBand(i + 1)
        band.WriteArray(a)
        if nodata is not None:
            band.SetNoDataValue(nodata)
        if colours:
            band.SetColorInterpretation(colours[i])
    ds = None


def make(folder):
    r = np.random.default_rng(7)
    at = lambda name: os.path.join(folder, name)
    heights = (r.random((H, W)) * 90 - 20).astype('float32')
    heights[3, 4:9] = -9999
    made(at('heights.tif'), [heights], gdal.GDT_Float32, nodata=-9999, options=['COMPRESS=DEFLATE', 'PREDICTOR=3'])
    made(at('depths16.tif'), [(r.integers(-3000, 3000, (H, W))).astype('int16')], gdal.GDT_Int16, nodata=-1)
    made(at('exact.tif'), [r.random((H, W)) * 1e9], gdal.GDT_Float64)
    made(at('counts32.tif'), [r.integers(0, 2**31 - 1, (H, W)).astype('int32')], gdal.GDT_Int32, options=['COMPRESS=LZW'])
    made(at('three.tif'), [r.random((H, W)).astype('float32') + i for i in range(3)], gdal.GDT_Float32, options=['TILED=YES', 'BLOCKXSIZE=16', 'BLOCKYSIZE=16'])
    rgb = [r.integers(0, 256, (H, W)).astype('uint8') for _ in range(4)]
    names = [gdal.GCI_RedBand, gdal.GCI_GreenBand, gdal.GCI_BlueBand, gdal.GCI_AlphaBand]
    made(at('photo.tif'), rgb[:3], gdal.GDT_Byte, colours=names[:3], options=['PHOTOMETRIC=RGB'])
    made(at('cut.tif'), rgb, gdal.GDT_Byte, colours=names, options=['PHOTOMETRIC=RGB', 'ALPHA=UNSPECIFIED'])
    made(at('south.tif'), [heights + 100], gdal.GDT_Float32, north_up=False)
    made(at('degrees.tif'), [heights], gdal.GDT_Float32, epsg=4326)
    made(at('nowhere.tif'), [heights], gdal.GDT_Float32, epsg=None)
    gdal.Translate(at('cover.gpkg'), at('heights.tif'), format='GPKG')
    gdal.Translate(at('tiles.gpkg'), at('photo.tif'), format='GPKG', creationOptions=['TILE_FORMAT=PNG'])
    gdal.Translate(at('grid.asc'), at('depths16.tif'), format='AAIGrid')


def numbers(ds, band):
    b = ds.GetRasterBand(band)
    a = b.ReadAsArray().astype('float64')
    if b.GetNoDataValue() is not None:
        a[a == b.GetNoDataValue()] = np.nan
    return a


def compare(source, exported, bands):
    a, b = gdal.Open(source), gdal.Open(exported)
    gt, ours = a.GetGeoTransform(), b.GetGeoTransform()
    south = gt[5] > 0
    top = gt[3] + (H * gt[5] if south else 0)
    told = {'place': bool(np.allclose(ours, [gt[0], gt[1], 0, top, 0, -abs(gt[5])])), 'bands': b.RasterCount, 'type': gdal.GetDataTypeName(b.GetRasterBand(1).DataType)}
    one, two = a.GetSpatialRef(), b.GetSpatialRef()
    told['crs'] = (one is None and two is None) or bool(one and two and one.GetAuthorityCode(None) == two.GetAuthorityCode(None))
    same = []
    for i, band in enumerate(bands):
        x = numbers(a, band)
        same.append(bool(np.array_equal(x[::-1] if south else x, numbers(b, i + 1), equal_nan=True)))
    told['same'] = all(same) and len(same) > 0
    if b.RasterCount == 4 and b.GetRasterBand(4).GetColorInterpretation() == gdal.GCI_AlphaBand:
        told['opacity'] = int(b.GetRasterBand(4).ReadAsArray().min())
    print(json.dumps(told))


if sys.argv[1] == 'make':
    make(sys.argv[2])
else:
    compare(sys.argv[2], sys.argv[3], [int(b) for b in sys.argv[4].split(',')])
