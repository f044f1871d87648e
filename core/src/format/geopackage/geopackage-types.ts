import type { FieldType } from '../../dataset/dataset.js';
import { KINDS } from '../../geometry/read-wkb.js';

/** Column types of OGC 12-128r17, table 1, to ours. */
export function fieldTypeOfColumn(declared: string): FieldType {
  const type = declared.toUpperCase().replace(/\(.*$/, '').trim();
  switch (type) {
    case 'BOOLEAN':
      return 'boolean';
    case 'TINYINT':
    case 'SMALLINT':
    case 'MEDIUMINT':
      return 'integer';
    case 'INT':
    case 'INTEGER':
      return 'integer64';
    case 'FLOAT':
    case 'DOUBLE':
    case 'REAL':
      return 'real';
    case 'DATE':
      return 'date';
    case 'DATETIME':
      return 'datetime';
    case 'BLOB':
      return 'binary';
    default:
      return 'text';
  }
}

const NAMES: Readonly<Record<string, string>> = Object.fromEntries(KINDS.map((kind) => [kind.toUpperCase(), kind]));

/** `gpkg_geometry_columns`: type name with the z and m flags (0 prohibited, 1 mandatory, 2 optional). */
export function geometryTypeOfColumn(name: string, z: number, m: number): string {
  return `${NAMES[name.toUpperCase()] ?? 'Geometry'}${z === 1 ? 'Z' : ''}${m === 1 ? 'M' : ''}`;
}
