"""Datasets of points, lines and areas of all kinds that GDAL's drivers write, and what GDAL reads in them.

Each gets a folder of its own. `index.json` lists them: the driver, and of each layer its name, the fields and the records as GDAL reads them:
[ISO well-known binary as hexadecimal digits, lowest byte first, or null; values by field; where it has arcs: its length, area and
least and greatest x, least and greatest y, computed by chords of a quarter of a degree].
Usage: vectors.py FOLDER
"""
import json, os, shutil, sys
from osgeo import gdal, ogr, osr

gdal.UseExceptions()
gdal.PushErrorHandler('CPLQuietErrorHandler')
folder = sys.argv[1]
index = []
srs = osr.SpatialReference()
srs.ImportFromEPSG(4326)
srs.SetAxisMappingStrategy(osr.OAMS_TRADITIONAL_GIS_ORDER)
metres = osr.SpatialReference()
metres.ImportFromEPSG(32624)

RING = '(-40 44,-39 44,-39 45,-40 45,-40 44)'
HOLE = '(-39.8 44.2,-39.8 44.4,-39.6 44.4,-39.6 44.2,-39.8 44.2)'
FAR = '(5 5,6 5,6 6,5 5)'
PLAIN = {
    'Point': ['POINT (-39.25 44.5)', 'POINT (0.1 -0.2)'],
    'LineString': ['LINESTRING (-39 44,-38.5 44.25,-38 44)', 'LINESTRING (0 0,0.1 0.3)'],
    'Polygon': [f'POLYGON ({RING},{HOLE})', f'POLYGON ({FAR})'],
    'MultiPoint': ['MULTIPOINT ((1 2),(3 4))', 'MULTIPOINT ((-1.5 2.25))'],
    'MultiLineString': ['MULTILINESTRING ((0 0,1 1),(2 2,3 1,4 4))', 'MULTILINESTRING ((-5 -5,0.1 0.3))'],
    'MultiPolygon': [f'MULTIPOLYGON (({RING},{HOLE}),({FAR}))', f'MULTIPOLYGON (({FAR}))'],
    'GeometryCollection': ['GEOMETRYCOLLECTION (POINT (1 2),LINESTRING (0 0,1 1))',
                           f'GEOMETRYCOLLECTION (POLYGON ({FAR}),MULTIPOINT ((1 2),(3 4)))'],
}
CURVED = {
    'CircularString': ['CIRCULARSTRING (0 0,1 1,2 0)', 'CIRCULARSTRING (0 0,1 1,2 0,3 -1,4 0)'],
    'CompoundCurve': ['COMPOUNDCURVE ((-1 0,0 0),CIRCULARSTRING (0 0,1 1,2 0))', 'COMPOUNDCURVE (CIRCULARSTRING (0 0,1 1,2 0),(2 0,3 3))'],
    'CurvePolygon': ['CURVEPOLYGON (CIRCULARSTRING (0 0,1 1,2 0,1 -1,0 0))',
                     f'CURVEPOLYGON (COMPOUNDCURVE (CIRCULARSTRING (0 0,1 1,2 0),(2 0,0 0)))'],
    'MultiCurve': ['MULTICURVE (CIRCULARSTRING (0 0,1 1,2 0),(5 5,6 6))', 'MULTICURVE ((0 0,1 2))'],
    'MultiSurface': [f'MULTISURFACE (CURVEPOLYGON (CIRCULARSTRING (0 0,1 1,2 0,1 -1,0 0)),({FAR}))', f'MULTISURFACE (({FAR}))'],
}
FLAT = ['Point', 'LineString', 'Polygon', 'MultiPoint', 'MultiLineString', 'MultiPolygon', 'GeometryCollection', 'CircularString',
        'CompoundCurve', 'CurvePolygon', 'MultiCurve', 'MultiSurface']
TEXTS = {'plain': ['Skerry', 'tide, "high"', "it's; |a\ttab"], 'latin': ['Ærø', 'Größe ½', 'à côté'], 'typographic': ['a – b', '5 €', 'Œuvre'],
         'cyrillic': ['Море', 'Остров', 'и'], 'greek': ['Θάλασσα', 'νησί', 'ω'], 'japanese': ['灯台', '港', 'ア']}


def raised(geometry, dims):
    geometry.Set3D('Z' in dims)
    geometry.SetMeasured('M' in dims)

    def visit(g):
        if g.GetGeometryCount() == 0:
            for i in range(g.GetPointCount()):
                x, y = g.GetX(i), g.GetY(i)
                if dims == 'ZM':
                    g.SetPointZM(i, x, y, 7.5 + x, 0.25 * y)
                elif dims == 'Z':
                    g.SetPoint(i, x, y, 7.5 + x)
                else:
                    g.SetPointM(i, x, y, 0.25 * y)
        for i in range(g.GetGeometryCount()):
            visit(g.GetGeometryRef(i))
    if dims:
        visit(geometry)
    return geometry


def type_of(kind, dims):
    code = getattr(ogr, 'wkb' + kind) if kind in FLAT else ogr.wkbUnknown
    if 'Z' in dims:
        code = ogr.GT_SetZ(code)
    return ogr.GT_SetM(code) if 'M' in dims else code


def shapes(kind, dims):
    texts = (PLAIN | CURVED)[kind]
    return [raised(ogr.CreateGeometryFromWkt(t), dims) for t in texts]


def value_of(feature, i, kind):
    if not feature.IsFieldSetAndNotNull(i):
        return None
    if kind == ogr.OFTBinary:
        return feature.GetFieldAsBinary(i).hex()
    if kind == ogr.OFTInteger:
        return feature.GetFieldAsInteger(i)
    if kind == ogr.OFTInteger64:
        return str(feature.GetFieldAsInteger64(i))
    if kind == ogr.OFTReal:
        return feature.GetFieldAsDouble(i)
    return feature.GetFieldAsString(i)


def read(path, options):
    source = gdal.OpenEx(path, gdal.OF_VECTOR, open_options=options)
    layers = []
    for n in range(source.GetLayerCount()):
        layer = source.GetLayer(n)
        d = layer.GetLayerDefn()
        fields = [[d.GetFieldDefn(i).GetName(), d.GetFieldDefn(i).GetTypeName()] for i in range(d.GetFieldCount())]
        kinds = [d.GetFieldDefn(i).GetType() for i in range(d.GetFieldCount())]
        records = []
        for f in layer:
            g = f.GetGeometryRef()
            records.append([bytes(g.ExportToIsoWkb(ogr.wkbNDR)).hex() if g is not None else None,
                            [value_of(f, i, k) for i, k in enumerate(kinds)]])
            if g is not None and g.HasCurveGeometry():
                chords = g.GetLinearGeometry(0.25)
                records[-1].append([chords.Length(), chords.Area() if g.GetDimension() == 2 else 0, list(chords.GetEnvelope())])
        if source.GetLayerCount() > 1 and not records:
            continue  # GPX: there is a layer for each kind, whether the file has any or not
        layers.append({'name': layer.GetName(), 'fields': fields, 'records': records})
    return layers


def make(name, driver, ending, kind, dims='', layer_options=(), options=(), nulls=True, texts='plain', crs=srs, open_options=(), fields=True,
         extra_kinds=(), layer_kind=None, empty=False):
    os.mkdir(os.path.join(folder, name))
    path = os.path.join(folder, name, 'data.' + ending)
    f = None
    try:
        target = gdal.GetDriverByName(driver).Create(path, 0, 0, 0, gdal.GDT_Unknown, list(options))
        layer = target.CreateLayer('waypoints' if driver == 'GPX' else 'data', crs, type_of(layer_kind or kind, dims) if kind else ogr.wkbNone,
                                   list(layer_options))
        if fields:
            for field, ft in [('name', ogr.OFTString)] if driver == 'GPX' else [('name', ogr.OFTString), ('depth', ogr.OFTReal),
                              ('n', ogr.OFTInteger), ('big', ogr.OFTInteger64), ('day', ogr.OFTDate)]:
                layer.CreateField(ogr.FieldDefn(field, ft))
        d = layer.GetLayerDefn()
        all_shapes = [] if empty else (shapes(kind, dims) if kind else [None, None]) + [g for k in extra_kinds for g in shapes(k, dims)]
        if nulls and not empty:
            all_shapes.append(None)
        for i, g in enumerate(all_shapes):
            f = ogr.Feature(d)
            if g is not None:
                f.SetGeometryDirectly(g)
            if fields:
                f.SetField('name', TEXTS[texts][i % 3])
                if driver != 'GPX':
                    if i != 1:
                        f.SetField('depth', i + 0.25)
                    f.SetField('n', i - 1)
                    f.SetField('big', 9007199254740991 - i)
                    f.SetField('day', 2026, 3, 10 + i, 0, 0, 0, 0)
            layer.CreateFeature(f)
            f = None
        g = layer = d = target = None
    except RuntimeError:
        shutil.rmtree(os.path.join(folder, name))
        return None  # a kind of shape that this driver does not write
    index.append({'name': name, 'driver': driver, 'file': 'data.' + ending, 'layers': read(path, list(open_options))})
    return path


DIMS = ['', 'Z', 'M', 'ZM']
for kind in PLAIN:
    for dims in DIMS:
        for spatial in ('YES', 'NO'):
            make(f'fgb_{kind}_{dims}_{spatial}', 'FlatGeobuf', 'fgb', kind, dims, ['SPATIAL_INDEX=' + spatial], nulls=spatial == 'NO')
        make(f'gpkg_{kind}_{dims}', 'GPKG', 'gpkg', kind, dims)
        make(f'shp_{kind}_{dims}', 'ESRI Shapefile', 'shp', kind, dims, ['ENCODING=UTF-8'], nulls=True)
        for separator in ('COMMA', 'SEMICOLON', 'TAB'):
            make(f'csv_{kind}_{dims}_{separator}', 'CSV', 'csv', kind, dims,
                 ['GEOMETRY=AS_WKT', 'SEPARATOR=' + separator, 'CREATE_CSVT=YES'])
    for dims in ('', 'Z'):
        for rfc in ('YES', 'NO'):
            make(f'geojson_{kind}_{dims}_{rfc}', 'GeoJSON', 'geojson', kind, dims, ['RFC7946=' + rfc])
        make(f'geojson_{kind}_{dims}_metres', 'GeoJSON', 'geojson', kind, dims, crs=metres)
        make(f'json_{kind}_{dims}', 'GeoJSON', 'json', kind, dims)
        for rs in ('YES', 'NO'):
            for ending in ('geojsonl', 'geojsons') if rs == 'YES' else ('geojsonl', 'ndjson'):
                make(f'seq_{kind}_{dims}_{rs}_{ending}', 'GeoJSONSeq', ending, kind, dims, ['RS=' + rs])
        make(f'kml_{kind}_{dims}', 'KML', 'kml', kind, dims, nulls=False)
        make(f'libkml_{kind}_{dims}', 'LIBKML', 'kml', kind, dims, nulls=False)
        make(f'kmz_{kind}_{dims}', 'LIBKML', 'kmz', kind, dims, nulls=False)
for kind in CURVED:
    for dims in DIMS:
        make(f'gpkg_{kind}_{dims}', 'GPKG', 'gpkg', kind, dims)
        make(f'fgb_{kind}_{dims}', 'FlatGeobuf', 'fgb', kind, dims, nulls=False)
for version in ('1.0', '1.2', '1.3', '1.4'):
    make(f'gpkg_version_{version}', 'GPKG', 'gpkg', 'Polygon', '', options=['VERSION=' + version])
    make(f'gpkg_mixed_{version}', 'GPKG', 'gpkg', 'Point', 'Z', options=['VERSION=' + version], layer_kind='Any', extra_kinds=('Polygon', 'MultiPoint'))
make('gpkg_no_index', 'GPKG', 'gpkg', 'LineString', '', ['SPATIAL_INDEX=NO'])
make('gpkg_table', 'GPKG', 'gpkg', None)
make('fgb_mixed', 'FlatGeobuf', 'fgb', 'Point', '', layer_kind='Any', extra_kinds=('Polygon', 'MultiLineString'), nulls=False)
make('geojson_mixed', 'GeoJSON', 'geojson', 'Point', 'Z', layer_kind='Any', extra_kinds=('Polygon', 'GeometryCollection'))
make('geojson_ids', 'GeoJSON', 'geojson', 'Point', '', ['ID_GENERATE=YES', 'ID_TYPE=String'])
make('geojson_number_ids', 'GeoJSON', 'geojson', 'Point', '', ['ID_GENERATE=YES', 'ID_TYPE=Integer'])
make('geojson_id_of_field', 'GeoJSON', 'geojson', 'Point', '', ['ID_FIELD=name'])
for driver, ending in (('FlatGeobuf', 'fgb'), ('GPKG', 'gpkg'), ('ESRI Shapefile', 'shp'), ('GeoJSON', 'geojson'), ('CSV', 'csv')):
    for kind in ('Point', 'Polygon'):
        make(f'empty_{ending}_{kind}', driver, ending, kind, empty=True)
for encoding, texts in (('ISO-8859-1', 'latin'), ('CP1252', 'latin'), ('CP1252', 'typographic'), ('ISO-8859-15', 'latin'), ('CP850', 'latin'),
                        ('CP437', 'plain'), ('CP1251', 'cyrillic'), ('CP866', 'cyrillic'), ('ISO-8859-7', 'greek'), ('CP1253', 'greek'),
                        ('CP932', 'japanese'), ('UTF-8', 'japanese'), ('UTF-8', 'greek')):
    make(f'shp_encoding_{encoding}_{texts}', 'ESRI Shapefile', 'shp', 'Point', '', ['ENCODING=' + encoding], texts=texts)
    made = make(f'shp_language_byte_{encoding}_{texts}', 'ESRI Shapefile', 'shp', 'Point', '', ['ENCODING=' + encoding], texts=texts)
    page = made and made[:-3] + 'cpg'
    ldid = {'ISO-8859-1': 0x57, 'CP1252': 0x57, 'CP850': 0x02, 'CP437': 0x01, 'CP1251': 0xC9, 'CP866': 0x65, 'CP1253': 0xCB, 'CP932': 0x13}.get(encoding)
    if ldid is None:  # no byte says so
        shutil.rmtree(os.path.join(folder, index.pop()['name']))
        continue
    if os.path.exists(page):
        os.remove(page)
    with open(made[:-3] + 'dbf', 'r+b') as table:
        table.seek(29)
        table.write(bytes([ldid]))
for texts in TEXTS:
    for driver, ending in (('GPKG', 'gpkg'), ('FlatGeobuf', 'fgb'), ('GeoJSON', 'geojson'), ('CSV', 'csv'), ('XLSX', 'xlsx'), ('KML', 'kml')):
        make(f'text_{texts}_{ending}', driver, ending, None if ending in ('xlsx', 'csv') else 'Point', '', texts=texts, nulls=False,
             open_options=['AUTODETECT_TYPE=YES'] if ending == 'csv' else [])
for bom in ('YES', 'NO'):
    for line in ('CRLF', 'LF'):
        make(f'csv_xy_{bom}_{line}', 'CSV', 'csv', 'Point', '', ['GEOMETRY=AS_XY', 'WRITE_BOM=' + bom, 'LINEFORMAT=' + line], nulls=False,
             open_options=['X_POSSIBLE_NAMES=X', 'Y_POSSIBLE_NAMES=Y', 'AUTODETECT_TYPE=YES'])
make('gpx_points', 'GPX', 'gpx', 'Point', 'Z', nulls=False)
json.dump(index, open(os.path.join(folder, 'index.json'), 'w'))
