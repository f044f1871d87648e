import type { Field } from '../dataset/dataset.js';
import { looseName } from './names.js';

/** A shapefile cuts names of fields off after so many characters (dBASE III; common practice, no other source). */
const SHAPEFILE_NAME = 10;

/**
 * The field of other data that most likely means the same: of the same name, of the same name in other spelling, or one of
 * which either name is the other, cut off as shapefiles do. Null: none, or several that are equally like it.
 */
export function likelyField(name: string, fields: readonly Field[]): string | null {
  const loose = (text: string): string => looseName(`${text}.`);
  const cut = (long: string, short: string): boolean =>
    short.length >= SHAPEFILE_NAME - 1 && short.length <= SHAPEFILE_NAME && long.length > short.length && long.startsWith(short);
  const lower = name.toLowerCase();
  const tests: readonly ((field: string) => boolean)[] = [
    (f) => f === name,
    (f) => loose(f) === loose(name),
    (f) => cut(lower, f.toLowerCase()) || cut(f.toLowerCase(), lower),
  ];
  for (const test of tests) {
    const found = fields.filter((f) => test(f.name));
    if (found.length > 0) return found.length === 1 ? found[0]!.name : null;
  }
  return null;
}
