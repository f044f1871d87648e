const DATASET = /\.(shp|geojson|gpkg|tiff?|png|jpe?g|asc|csv|tsv|dbf|kml|kmz|gpx|fgb|xlsx)$/i;

/** Files that a person can point at as data: main files, not companions. */
export const isDatasetFile = (name: string): boolean => DATASET.test(name);
