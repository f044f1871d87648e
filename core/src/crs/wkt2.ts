import { child, wktName } from './wkt.js';
import type { WktNode } from './wkt-node.js';

const node = (keyword: string, values: readonly (string | number)[], children: readonly (WktNode | undefined)[] = []): WktNode => ({
  keyword,
  values,
  children: children.filter((c) => c !== undefined),
});

/** Names of parameters in the newer text (OGC 18-010r7, annex F; IOGP 373-7-2) and in the older one. */
const PARAMETERS: Readonly<Record<string, string>> = {
  'latitude of natural origin': 'latitude_of_origin',
  'longitude of natural origin': 'central_meridian',
  'longitude of origin': 'central_meridian',
  'scale factor at natural origin': 'scale_factor',
  'false easting': 'false_easting',
  'false northing': 'false_northing',
  'latitude of false origin': 'latitude_of_origin',
  'longitude of false origin': 'central_meridian',
  'easting at false origin': 'false_easting',
  'northing at false origin': 'false_northing',
  'latitude of 1st standard parallel': 'standard_parallel_1',
  'latitude of 2nd standard parallel': 'standard_parallel_2',
  'latitude of standard parallel': 'latitude_of_origin',
  'latitude of projection centre': 'latitude_of_center',
  'longitude of projection centre': 'longitude_of_center',
  'easting at projection centre': 'false_easting',
  'northing at projection centre': 'false_northing',
  'azimuth of initial line': 'azimuth',
  'azimuth at projection centre': 'azimuth',
  'angle from rectified to skew grid': 'rectified_grid_angle',
  'scale factor on initial line': 'scale_factor',
  'scale factor at projection centre': 'scale_factor',
};

const METHODS: Readonly<Record<string, string>> = {
  'transverse mercator': 'Transverse_Mercator',
  'lambert conic conformal (2sp)': 'Lambert_Conformal_Conic_2SP',
  'lambert conic conformal (1sp)': 'Lambert_Conformal_Conic_1SP',
  'albers equal area': 'Albers_Conic_Equal_Area',
  'lambert azimuthal equal area': 'Lambert_Azimuthal_Equal_Area',
  'mercator (variant a)': 'Mercator_1SP',
  'mercator (variant b)': 'Mercator_2SP',
  'popular visualisation pseudo mercator': 'Mercator_Auxiliary_Sphere',
  'polar stereographic (variant a)': 'Polar_Stereographic',
  'polar stereographic (variant b)': 'Polar_Stereographic',
  'oblique stereographic': 'Oblique_Stereographic',
  'cassini-soldner': 'Cassini_Soldner',
  'hotine oblique mercator (variant a)': 'Hotine_Oblique_Mercator',
  'hotine oblique mercator (variant b)': 'Hotine_Oblique_Mercator_Azimuth_Center',
  'american polyconic': 'Polyconic',
  krovak: 'Krovak',
  'new zealand map grid': 'New_Zealand_Map_Grid',
};

/**
 * The newer text of a CRS (OGC 18-010r7, "WKT 2") as the tree that the older one (OGC 01-009) would have; anything else as it
 * is. Axes are left out: coordinates come as x and y, east first, whatever the text says of their order.
 */
export function asWkt1(root: WktNode): WktNode {
  switch (root.keyword) {
    case 'PROJCRS':
    case 'PROJECTEDCRS':
      return projected(root);
    case 'GEOGCRS':
    case 'GEOGRAPHICCRS':
    case 'GEODCRS':
    case 'GEODETICCRS':
      return geographic(root);
    case 'COMPD_CS':
    case 'COMPOUNDCRS': {
      const flat = child(
        root,
        'PROJCS',
        'GEOGCS',
        'PROJCRS',
        'PROJECTEDCRS',
        'GEOGCRS',
        'GEOGRAPHICCRS',
        'GEODCRS',
        'GEODETICCRS',
        'BOUNDCRS',
      );
      return flat ? asWkt1(flat) : root;
    }
    case 'BOUNDCRS': {
      const source = child(child(root, 'SOURCECRS'), 'PROJCRS', 'GEOGCRS', 'GEODCRS', 'PROJECTEDCRS', 'GEOGRAPHICCRS', 'GEODETICCRS');
      return source ? asWkt1(source) : root;
    }
    default:
      return root;
  }
}

function projected(root: WktNode): WktNode {
  const conversion = child(root, 'CONVERSION', 'DERIVINGCONVERSION');
  const method = wktName(child(conversion, 'METHOD', 'PROJECTION'));
  const base = child(root, 'BASEGEOGCRS', 'BASEGEODCRS');
  const parameters = conversion?.children.filter((c) => c.keyword === 'PARAMETER') ?? [];
  return node('PROJCS', root.values, [
    base && geographic(base),
    method === null ? undefined : node('PROJECTION', [METHODS[method.toLowerCase()] ?? method.replace(/\s+/g, '_')]),
    ...parameters.map((p) =>
      node('PARAMETER', [PARAMETERS[String(p.values[0]).toLowerCase()] ?? String(p.values[0]), inUnitsOf(root, base, p)]),
    ),
    lengthUnit(root),
    child(root, 'ID', 'AUTHORITY'),
  ]);
}

/** A parameter may have a unit of its own (OGC 18-010r7, 7.5.8.4); the older text has those of the axes and of the base. */
function inUnitsOf(root: WktNode, base: WktNode | undefined, parameter: WktNode): number | string {
  const value = parameter.values[1]!;
  const isLength = child(parameter, 'LENGTHUNIT') !== undefined;
  const own = child(parameter, 'LENGTHUNIT', 'ANGLEUNIT');
  const other = isLength ? lengthUnit(root) : base && child(geographic(base), 'UNIT');
  const factor = Number(own?.values[1]) / Number(other?.values[1] ?? (isLength ? 1 : DEGREE));
  return Number.isFinite(factor) && Math.abs(factor - 1) > 1e-9 ? Number(value) * factor : value;
}
const DEGREE = 0.0174532925199433;

function geographic(root: WktNode): WktNode {
  const datum = child(root, 'DATUM', 'GEODETICDATUM', 'TRF', 'ENSEMBLE');
  const ellipsoid = child(datum, 'ELLIPSOID', 'SPHEROID');
  const meridian = child(root, 'PRIMEM', 'PRIMEMERIDIAN');
  const angle = child(root, 'ANGLEUNIT', 'UNIT') ?? child(child(root, 'CS') ?? root, 'ANGLEUNIT') ?? axisUnit(root, 'ANGLEUNIT');
  return node('GEOGCS', root.values, [
    datum && node('DATUM', datum.values, [ellipsoid && node('SPHEROID', ellipsoid.values)]),
    meridian ? node('PRIMEM', meridian.values) : node('PRIMEM', ['Greenwich', 0]),
    angle ? node('UNIT', angle.values) : undefined,
    child(root, 'ID', 'AUTHORITY'),
  ]);
}

/** The unit stands behind the axes, or in each of them. */
function lengthUnit(root: WktNode): WktNode | undefined {
  const unit = child(root, 'LENGTHUNIT', 'UNIT') ?? axisUnit(root, 'LENGTHUNIT');
  return unit && node('UNIT', unit.values);
}
const axisUnit = (root: WktNode, keyword: string): WktNode | undefined => child(child(root, 'AXIS'), keyword, 'UNIT');
