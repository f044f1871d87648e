"""How PROJ computes CRSs that the package of definitions lacks.

Reads a JSON object {"missing": [code …], "known": {code: proj4 string}} from standard input; writes {"added": [[code, proj4 string, WKT 1 or null] …],
"odd": [code …]}: definitions with the shift to WGS 84 of their known geographic CRS, or else the one that PROJ guesses (its most
accurate one for the area); and geographic CRSs whose unit is no degree, which no such string tells. Outside reference: PROJ, through the
osr module of Debian's python3-gdal.
"""
import json, re, sys
from osgeo import osr

osr.UseExceptions()
given = json.load(sys.stdin)
known = given['known']
DEGREE = 0.0174532925199433
SHIFT = re.compile(r' \+(?:towgs84|nadgrids|datum)=\S+')
ELLIPSOID = re.compile(r' \+(?:ellps|a|b|rf|datum)=\S+')


def crs_of(code):
    crs = osr.SpatialReference()
    crs.ImportFromEPSG(int(code))
    return crs


def wkt_of(crs):
    # The dialect of .prj files has more projections than the older text.
    for form in ('WKT1_GDAL', 'WKT1_ESRI'):
        try:
            text = crs.ExportToWkt(['FORMAT=' + form])
            if text:
                return text
        except RuntimeError:
            pass
    return None


added, odd = [], []
for code in [*given['missing'], *known]:
    try:
        crs = crs_of(code)
    except RuntimeError:
        continue
    if crs.IsGeographic() and abs(crs.GetAngularUnits() - DEGREE) > 1e-12:
        odd.append(int(code))
        continue
    if str(code) in known:
        continue
    base = crs.GetAuthorityCode('GEOGCS') if crs.IsProjected() else code
    by_base = SHIFT.findall(known.get(str(base), ''))
    try:
        if not by_base:
            crs.AddGuessedTOWGS84()
        text = crs.ExportToProj4().strip()
    except RuntimeError:
        continue
    if not text or '+proj=' not in text:
        continue
    if by_base:
        text = SHIFT.sub('', text) if not any('datum' in s for s in by_base) else ELLIPSOID.sub('', SHIFT.sub('', text))
        text = text.replace(' +no_defs', ''.join(by_base) + ' +no_defs')
    # Names of ellipsoids are not the same everywhere, numbers are.
    text = re.sub(r'\+ellps=\S+', f'+a={crs.GetSemiMajor():.12g} +rf={crs.GetInvFlattening():.12g}' if crs.GetInvFlattening() else r'\g<0>', text)
    added.append([int(code), text.replace(' +type=crs', ''), wkt_of(crs)])
json.dump({'added': added, 'odd': odd}, sys.stdout)
