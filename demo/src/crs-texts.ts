/** CRS texts as `.prj` files have them, written out from the EPSG definitions. */
const WGS84 =
  'GEOGCS["WGS 84",DATUM["WGS_1984",SPHEROID["WGS 84",6378137,298.257223563]],PRIMEM["Greenwich",0],UNIT["degree",0.0174532925199433]]';
export const GEOGRAPHIC = WGS84;
export const UTM_24N = `PROJCS["WGS 84 / UTM zone 24N",${WGS84},PROJECTION["Transverse_Mercator"],PARAMETER["latitude_of_origin",0],PARAMETER["central_meridian",-39],PARAMETER["scale_factor",0.9996],PARAMETER["false_easting",500000],PARAMETER["false_northing",0],UNIT["metre",1]]`;
export const WORLD_MERCATOR = `PROJCS["WGS 84 / World Mercator",${WGS84},PROJECTION["Mercator_1SP"],PARAMETER["central_meridian",0],PARAMETER["scale_factor",1],PARAMETER["false_easting",0],PARAMETER["false_northing",0],UNIT["metre",1]]`;
export const DEFINITIONS = new Map([
  [4326, { name: 'WGS 84', wkt: GEOGRAPHIC }],
  [32624, { name: 'WGS 84 / UTM zone 24N', wkt: UTM_24N }],
]);
