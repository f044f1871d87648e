import type { Field } from '../dataset/dataset.js';

/** Names that a table keeps for itself. */
const TAKEN: readonly string[] = ['fid', 'geom', 'rowid', 'oid', '_rowid_'];

/** Fields with names that a table of a geodatabase can have: none empty, none taken, none twice (case does not count), none with control characters. */
export function columnNames(fields: readonly Field[]): Field[] {
  const used = new Set(TAKEN);
  return fields.map((field, i) => {
    const base = field.name.replace(/\p{Cc}/gu, '_').trim() || `field_${i + 1}`;
    let name = base;
    for (let n = 1; used.has(name.toLowerCase()); n++) name = `${base}_${n}`;
    used.add(name.toLowerCase());
    return name === field.name ? field : { ...field, name };
  });
}
