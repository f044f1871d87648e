"""Rasters of all kinds that GDAL's GTiff driver writes, and what GDAL reads in them.

Each gets a folder with NAME.tif and NAME.raw: doubles, lowest byte first, of the first band (not a number where it has no value, its scale and
offset taken into account), or bytes of red, green, blue and opacity. `index.json` lists them.
Usage: rasters.py FOLDER
"""
import json, os, sys
import numpy as np
from osgeo import gdal, osr

gdal.UseExceptions()
folder = sys.argv[1]
W, H = 150, 110
rng = np.random.default_rng(1)
x, y = np.meshgrid(np.arange(W), np.arange(H))
relief = 40 * np.sin(x / 17.0) * np.cos(y / 11.0) - 20 + rng.random((H, W))
srs = osr.SpatialReference()
srs.ImportFromEPSG(32624)
TYPES = {'Byte': np.uint8, 'Int8': np.int8, 'UInt16': np.uint16, 'Int16': np.int16, 'UInt32': np.uint32, 'Int32': np.int32,
         'Float32': np.float32, 'Float64': np.float64}
index = []


def data_for(kind, band):
    base = relief + band * 3.0
    if kind == 'Byte':
        return (base - base.min()).astype(np.uint8)
    if kind == 'UInt16':
        return ((base - base.min()) * 700).astype(np.uint16)
    if kind == 'UInt32':
        return ((base - base.min()) * 4e7).astype(np.uint32)
    if kind == 'Int32':
        return (base * 3e7).astype(np.int32)
    return base.astype(TYPES[kind])


def make(name, kind, options=(), bands=1, nodata=None, mask=False, colours=None, scale=None, colour=False, south=False, inside=True, beside=None):
    os.mkdir(os.path.join(folder, name))
    path = os.path.join(folder, name, name + '.tif')
    driver = gdal.GetDriverByName('GTiff')
    memory = gdal.GetDriverByName('MEM').Create('', W, H, bands, getattr(gdal, 'GDT_' + kind))
    memory.SetProjection(srs.ExportToWkt())
    memory.SetGeoTransform((500000, 10, 0, 6000000, 0, 10 if south else -10))
    for b in range(bands):
        band = memory.GetRasterBand(b + 1)
        values = data_for(kind, b)
        if nodata is not None:
            values[10:30, 20:60] = nodata
            band.SetNoDataValue(nodata)
        if colours and b == bands - 1:
            values = ((x // 10 + y // 10) % 2 * 255).astype(np.uint8)
        band.WriteArray(values)
        if scale:
            band.SetScale(scale[0])
            band.SetOffset(scale[1])
        if colours:
            band.SetColorInterpretation([gdal.GCI_RedBand, gdal.GCI_GreenBand, gdal.GCI_BlueBand, gdal.GCI_AlphaBand][b] if bands > 2
                                        else [gdal.GCI_GrayIndex, gdal.GCI_AlphaBand][b])
        elif colour:
            band.SetColorInterpretation([gdal.GCI_RedBand, gdal.GCI_GreenBand, gdal.GCI_BlueBand][b] if b < 3 else gdal.GCI_Undefined)
    with_palette = colour and bands == 1
    if with_palette:
        table = gdal.ColorTable()
        for i in range(256):
            table.SetColorEntry(i, ((i * 7) % 256, (i * 3) % 256, 255 - i, 255))
        memory.GetRasterBand(1).SetRasterColorTable(table)
        memory.GetRasterBand(1).SetRasterColorInterpretation(gdal.GCI_PaletteIndex)
    if mask:
        gdal.SetConfigOption('GDAL_TIFF_INTERNAL_MASK', 'YES' if inside else 'NO')
        memory.CreateMaskBand(gdal.GMF_PER_DATASET)
        shown = np.full((H, W), 255, np.uint8)
        shown[50:90, 70:140] = 0
        memory.GetRasterBand(1).GetMaskBand().WriteArray(shown)
    driver.CreateCopy(path, memory, options=list(options))
    if beside:
        beside(path)
    written = gdal.Open(path)
    if written.GetRasterBand(1).GetOverviewCount():
        small = written.GetRasterBand(1).GetOverview(0).ReadAsArray().astype('<f8')
        small.tofile(os.path.join(folder, name, name + '.small'))
    is_colour = kind == 'Byte' and (with_palette or (colour and bands >= 3) or (colours and bands > 2))
    if is_colour:
        out = np.zeros((H, W, 4), np.uint8)
        if with_palette:
            band = written.GetRasterBand(1).ReadAsArray()
            table = written.GetRasterBand(1).GetColorTable()
            lookup = np.array([table.GetColorEntry(i)[:3] for i in range(table.GetCount())], np.uint8)
            out[..., :3] = lookup[band]
        else:
            for b in range(3):
                out[..., b] = written.GetRasterBand(b + 1).ReadAsArray()
        out[..., 3] = 255
        if colours and bands == 4:
            out[..., 3] = written.GetRasterBand(4).ReadAsArray()
        if mask:
            out[..., 3] = np.where(written.GetRasterBand(1).GetMaskBand().ReadAsArray() == 0, 0, out[..., 3])
        if with_palette and nodata is not None:
            out[..., 3] = np.where(written.GetRasterBand(1).ReadAsArray() == nodata, 0, 255)
        out.tofile(os.path.join(folder, name, name + '.raw'))
    else:
        band = written.GetRasterBand(1)
        values = band.ReadAsArray().astype(np.float64)
        values[band.GetMaskBand().ReadAsArray() == 0] = np.nan
        values = values * (band.GetScale() or 1) + (band.GetOffset() or 0)
        values.astype('<f8').tofile(os.path.join(folder, name, name + '.raw'))
    index.append({'name': name, 'kind': kind, 'isColour': bool(is_colour), 'bands': bands, 'isLossy': any('JPEG' in o or 'WEBP' in o for o in options),
                  'isSouthUp': south, 'isReduced': bool(written.GetRasterBand(1).GetOverviewCount())})


PACKINGS = {'none': [], 'lzw': ['COMPRESS=LZW'], 'deflate': ['COMPRESS=DEFLATE'], 'packbits': ['COMPRESS=PACKBITS'], 'zstd': ['COMPRESS=ZSTD'],
            'lerc': ['COMPRESS=LERC'], 'lerc_deflate': ['COMPRESS=LERC_DEFLATE'], 'lerc_zstd': ['COMPRESS=LERC_ZSTD'], 'lzma': ['COMPRESS=LZMA']}
LAYOUTS = {'strips': [], 'rows': ['BLOCKYSIZE=1'], 'tiles': ['TILED=YES', 'BLOCKXSIZE=64', 'BLOCKYSIZE=32'],
           'big': ['ENDIANNESS=BIG', 'BIGTIFF=YES']}
for kind in TYPES:
    if not hasattr(gdal, 'GDT_' + kind):
        continue
    for packing, options in PACKINGS.items():
        for layout, more in LAYOUTS.items():
            make(f'{kind}_{packing}_{layout}', kind, options + more, nodata=None if layout == 'rows' else 7)
        if packing in ('lzw', 'deflate', 'zstd'):
            for predictor in [2] + ([3] if kind.startswith('Float') else []):
                if kind == 'Float64' and predictor == 2 and gdal.VersionInfo() < '3040000':
                    continue
                make(f'{kind}_{packing}_p{predictor}', kind, options + [f'PREDICTOR={predictor}'])
                make(f'{kind}_{packing}_p{predictor}_tiles_big', kind, options + [f'PREDICTOR={predictor}', 'TILED=YES', 'BLOCKXSIZE=32', 'BLOCKYSIZE=16', 'ENDIANNESS=BIG'])
for order in ['PIXEL', 'BAND']:
    for packing in ['none', 'deflate', 'lerc', 'zstd']:
        make(f'twelve_{order}_{packing}', 'Int16', PACKINGS[packing] + [f'INTERLEAVE={order}'], bands=12, nodata=-9999)
        make(f'rgb16_{order}_{packing}', 'UInt16', PACKINGS[packing] + [f'INTERLEAVE={order}', 'PHOTOMETRIC=RGB'], bands=3)
        make(f'rgb_{order}_{packing}', 'Byte', PACKINGS[packing] + [f'INTERLEAVE={order}', 'PHOTOMETRIC=RGB'], bands=3, colour=True)
        make(f'rgba_{order}_{packing}', 'Byte', PACKINGS[packing] + [f'INTERLEAVE={order}', 'PHOTOMETRIC=RGB', 'ALPHA=YES'], bands=4, colours=True)
        make(f'rgbn_{order}_{packing}', 'Byte', PACKINGS[packing] + [f'INTERLEAVE={order}', 'PHOTOMETRIC=RGB', 'ALPHA=NO'], bands=4, colour=True)
        make(f'greya_{order}_{packing}', 'Byte', PACKINGS[packing] + [f'INTERLEAVE={order}', 'ALPHA=YES'], bands=2, colours=True)
for kind in ['Byte', 'Int16', 'Float32']:
    make(f'masked_{kind}', kind, ['COMPRESS=DEFLATE'], mask=True)
    make(f'masked_tiles_{kind}', kind, ['COMPRESS=LZW', 'TILED=YES', 'BLOCKXSIZE=64', 'BLOCKYSIZE=64'], mask=True)
    make(f'mask_beside_{kind}', kind, ['COMPRESS=DEFLATE'], mask=True, inside=False)


def smaller(path):
    source = gdal.Open(path)
    source.BuildOverviews('AVERAGE', [4])  # no pixel of these stands in the whole picture


def in_aux(path):
    source = gdal.Open(path)
    source.GetRasterBand(1).SetNoDataValue(7)
    source.GetRasterBand(1).SetScale(0.5)
    source.GetRasterBand(1).SetOffset(-10)


make('reduced_beside', 'Int16', ['COMPRESS=DEFLATE'], beside=smaller)
make('reduced_beside_float', 'Float32', ['COMPRESS=LZW', 'PREDICTOR=3'], beside=smaller)
make('aux_Int16', 'Int16', [], beside=in_aux)
make('aux_Float32', 'Float32', ['TILED=YES', 'BLOCKXSIZE=64', 'BLOCKYSIZE=64'], beside=in_aux)
make('mask_beside_rgb', 'Byte', ['PHOTOMETRIC=RGB'], bands=3, colour=True, mask=True, inside=False)
make('masked_rgb', 'Byte', ['PHOTOMETRIC=RGB'], bands=3, colour=True, mask=True)
make('scaled_Int16', 'Int16', [], nodata=-999, scale=(0.25, -3))
make('scaled_Float32', 'Float32', ['COMPRESS=DEFLATE', 'PREDICTOR=3'], scale=(2, 100))
make('south_Int16', 'Int16', [], nodata=-999, south=True)
make('south_rgb', 'Byte', ['PHOTOMETRIC=RGB'], bands=3, colour=True, south=True)
make('palette', 'Byte', [], colour=True)
make('palette_lzw_nodata', 'Byte', ['COMPRESS=LZW'], colour=True, nodata=0)
make('half', 'Float32', ['NBITS=16'])
make('half_p3', 'Float32', ['NBITS=16', 'COMPRESS=DEFLATE', 'PREDICTOR=3'])
for bits in [1, 2, 4]:
    make(f'bits{bits}', 'Byte', [f'NBITS={bits}', 'COMPRESS=DEFLATE'])
make('bits12', 'UInt16', ['NBITS=12', 'COMPRESS=DEFLATE'])
make('nan', 'Float32', ['COMPRESS=LERC_ZSTD'], nodata=float('nan'))
make('lowest', 'Float32', [], nodata=-3.4028234663852886e38)
make('sparse', 'Float32', ['SPARSE_OK=YES', 'TILED=YES', 'BLOCKXSIZE=64', 'BLOCKYSIZE=64'], nodata=0)
make('jpeg_grey', 'Byte', ['COMPRESS=JPEG'])
make('jpeg_rgb', 'Byte', ['COMPRESS=JPEG', 'PHOTOMETRIC=RGB', 'TILED=YES', 'BLOCKXSIZE=64', 'BLOCKYSIZE=64'], bands=3, colour=True)
make('jpeg_ycbcr', 'Byte', ['COMPRESS=JPEG', 'PHOTOMETRIC=YCBCR', 'TILED=YES', 'BLOCKXSIZE=64', 'BLOCKYSIZE=64'], bands=3, colour=True)
make('webp_lossless', 'Byte', ['COMPRESS=WEBP', 'WEBP_LOSSLESS=YES', 'TILED=YES', 'BLOCKXSIZE=64', 'BLOCKYSIZE=64'], bands=3, colour=True)

json.dump(index, open(os.path.join(folder, 'index.json'), 'w'))
