/** Longest name that every program takes (common practice, no source). */
const LONGEST = 60;
const RESERVED = /^(gpkg_|sqlite_|rtree_)/i;
/** Words of SQL that trip programs which do not quote names (ISO/IEC 9075, of the commonest). */
const WORDS = new Set([
  'select',
  'table',
  'index',
  'order',
  'group',
  'where',
  'from',
  'to',
  'values',
  'default',
  'check',
  'column',
  'join',
  'union',
  'all',
  'and',
  'or',
  'not',
  'null',
  'primary',
  'key',
  'limit',
  'set',
  'update',
  'delete',
  'insert',
  'create',
  'drop',
  'case',
  'end',
]);

export const isWordOfSql = (name: string): boolean => WORDS.has(name.toLowerCase());

/** Why a table of a geodatabase cannot, or should not, be called so; null: it is fine. */
export function tableNameFault(name: string): string | null {
  if (name === '') return 'it is empty';
  if (RESERVED.test(name)) return `names that begin with ${RESERVED.exec(name)![0]} are the container's own`;
  if (!/^\p{L}/u.test(name)) return 'it does not begin with a letter';
  if (!/^[\p{L}\p{N}_]+$/u.test(name)) return 'only letters, digits and _ are taken everywhere';
  if (name.length > LONGEST) return `it is longer than ${LONGEST} letters`;
  if (isWordOfSql(name)) return 'it is a word of SQL';
  return null;
}

/** A name that is fine and free, made from another one. */
export function proposeTableName(from: string, isTaken: (name: string) => boolean): string {
  let stem = from
    .normalize('NFC')
    .replace(/[^\p{L}\p{N}_]+/gu, '_')
    .replace(/^_+|_+$/g, '')
    .slice(0, LONGEST - 4);
  if (stem === '' || !/^\p{L}/u.test(stem) || RESERVED.test(stem) || isWordOfSql(stem)) stem = `t_${stem}`.replace(/_+$/, '');
  let name = stem;
  for (let n = 2; isTaken(name); n++) name = `${stem}_${n}`;
  return name;
}
