import { child, wktName } from './wkt.js';
import type { WktNode } from './wkt-node.js';

/**
 * What makes two CRS texts mean the same, whoever wrote them: datum, ellipsoid, prime meridian, projection method and
 * parameters, units. Names of the CRS itself do not count. Null where a part is missing or the datum is unknown.
 */
export function crsSignature(node: WktNode): string | null {
  if (node.keyword === 'GEOGCS') return geographic(node);
  if (node.keyword !== 'PROJCS') return null;
  const base = geographic(child(node, 'GEOGCS'));
  const method = wktName(child(node, 'PROJECTION'));
  if (!base || !method) return null;
  const unit = Number(child(node, 'UNIT')?.values[1] ?? 1);
  const parameters = node.children
    .filter((c) => c.keyword === 'PARAMETER' && c.values[1] !== 0)
    .map((c) => `${parameterKey(String(c.values[0]))}=${round(Number(c.values[1]))}`)
    .filter((p) => !/^(scalefactor=1|scalefactoratnaturalorigin=1|rectifiedgridangle=90)$/.test(p))
    .sort();
  return `${base}|${methodOf(node, method)}|${parameters.join(',')}|${round(unit)}`;
}

function geographic(node: WktNode | undefined): string | null {
  const datum = child(node, 'DATUM');
  const spheroid = child(datum, 'SPHEROID', 'ELLIPSOID');
  const name = datumKey(wktName(datum) ?? '');
  if (!spheroid || !name || name === 'unknown') return null;
  const meridian = Number(child(node, 'PRIMEM')?.values[1] ?? 0);
  const unit = Number(child(node, 'UNIT')?.values[1] ?? 0.0174532925199433);
  return `${name}|${round(Number(spheroid.values[1]))}|${Number(spheroid.values[2]).toFixed(5)}|${round(meridian)}|${unit.toFixed(9)}`;
}

/** `+` tells CH1903+ from CH1903. */
const plain = (name: string): string => name.toLowerCase().replace(/[^a-z0-9+]/g, '');

/** Two ways of writing datum names are common: `North_American_Datum_1927` and `D_North_American_1927`. */
const DATUM_SYNONYMS: Readonly<Record<string, string>> = {
  etrs1989: 'europeanterrestrialreferencesystem1989',
  wgs84: 'wgs1984',
  worldgeodeticsystem1984: 'wgs1984',
  etrs89: 'europeanterrestrialreferencesystem1989',
  europeanterrestrialreferencesystem1989ensemble: 'europeanterrestrialreferencesystem1989',
  gda1994: 'geocentricofaustralia1994',
  gda2020: 'geocentricofaustralia2020',
  nzgd2000: 'newzealandgeodetic2000',
  osgb1936: 'ordnancesurveyofgreatbritain1936',
  rgf1993: 'reseaugeodesiquefrancais1993v1',
  reseaugeodesiquefrancais1993: 'reseaugeodesiquefrancais1993v1',
  belge1972: 'reseaunationalbelge1972',
  jgd2000: 'japanesegeodetic2000',
  jgd2011: 'japanesegeodetic2011',
};
function datumKey(name: string): string {
  const key = plain(name.replace(/^D_/, ''))
    .replace('datum', '')
    .replace(/ensemble$/, '');
  return DATUM_SYNONYMS[key] ?? key;
}

const PARAMETERS: Readonly<Record<string, string>> = {
  latitudeofcenter: 'latitudeoforigin',
  longitudeofcenter: 'centralmeridian',
};
const parameterKey = (name: string): string => PARAMETERS[plain(name)] ?? plain(name);

const METHODS: Readonly<Record<string, string>> = {
  lambertconformalconic: 'lambertconformalconic',
  lambertconformalconic1sp: 'lambertconformalconic',
  lambertconformalconic2sp: 'lambertconformalconic',
  albers: 'albersconicequalarea',
  gausskruger: 'transversemercator',
  doublestereographic: 'obliquestereographic',
  mercator: 'mercator1sp',
};
/** Web Mercator is written as Mercator on the ellipsoid with the sphere in an extension, or by a name of its own. */
function methodOf(node: WktNode, name: string): string {
  const key = METHODS[plain(name)] ?? plain(name);
  return key === 'mercator1sp' && child(node, 'EXTENSION') ? 'mercatorauxiliarysphere' : key;
}
const round = (n: number): string => String(Number(n.toPrecision(10)));
