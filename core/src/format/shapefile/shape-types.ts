/** Shape types. ESRI Shapefile Technical Description (July 1998), pages 4 and 15 ff. */
export const SHAPE_TYPES: Readonly<Record<number, { readonly name: string; readonly geometryType: string }>> = {
  0: { name: 'Null Shape', geometryType: 'Geometry' },
  1: { name: 'Point', geometryType: 'Point' },
  3: { name: 'PolyLine', geometryType: 'LineString' },
  5: { name: 'Polygon', geometryType: 'Polygon' },
  8: { name: 'MultiPoint', geometryType: 'MultiPoint' },
  11: { name: 'PointZ', geometryType: 'PointZ' },
  13: { name: 'PolyLineZ', geometryType: 'LineStringZ' },
  15: { name: 'PolygonZ', geometryType: 'PolygonZ' },
  18: { name: 'MultiPointZ', geometryType: 'MultiPointZ' },
  21: { name: 'PointM', geometryType: 'PointM' },
  23: { name: 'PolyLineM', geometryType: 'LineStringM' },
  25: { name: 'PolygonM', geometryType: 'PolygonM' },
  28: { name: 'MultiPointM', geometryType: 'MultiPointM' },
  31: { name: 'MultiPatch', geometryType: 'MultiPatch' },
};

export const isPointShape = (type: number): boolean => type === 1 || type === 11 || type === 21;
export const isMultiPointShape = (type: number): boolean => type === 8 || type === 18 || type === 28;
/** Lines, polygons and patches: a part table stands before the points; patches have part types too. */
export const hasParts = (type: number): boolean => [3, 5, 13, 15, 23, 25, 31].includes(type);
