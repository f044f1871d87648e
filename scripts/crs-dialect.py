"""Names and texts of all registered CRSs in the dialect of `.prj` files that is common in the trade, as PROJ writes them.

Reads a JSON list of codes from standard input and writes [code, name, text, isPlain] for each that has such a text: isPlain is
false of deprecated ones, of those with another order of axes, and of those with a height. Outside reference: PROJ, through the
osr module of Debian's python3-gdal.
"""
import json, re, sys
from osgeo import osr

osr.UseExceptions()
out = []
for code in json.load(sys.stdin):
    crs = osr.SpatialReference()
    try:
        crs.ImportFromEPSG(code)
        if not (crs.IsProjected() or crs.IsGeographic()):
            continue
        text = crs.ExportToWkt(['FORMAT=WKT1_ESRI'])
        is_deprecated = re.search(r'deprecated', crs.GetName()) is not None
    except RuntimeError:
        continue
    name = re.match(r'[A-Z]+\["([^"]*)"', text)
    is_plain = not (is_deprecated or crs.IsCompound() or re.search(r'\((N-E|N,E|lon-lat|3D|FTP|N-zE)\)', crs.GetName()))
    if crs.IsProjected():
        is_plain = is_plain and (crs.EPSGTreatsAsNorthingEasting() == 0 or not re.search(r'\(E-N\)', crs.GetName()))
    out.append([code, name.group(1) if name else '', text, bool(is_plain)])
json.dump(out, sys.stdout)
