import { readSld, writeSld, type Field, type Label, type Look } from '@rootmap/core';
import type { KeptLook } from '@rootmap/core/contract';

/** A look as a style that other programs read. */
export const lookFileOf = ({ name, kind, look, label }: KeptLook): Promise<string> =>
  writeSld(name, look, kind === 'point' || kind === 'line' || kind === 'area' ? kind : 'mixed', label);

/** The look of a style, and what of it is drawn otherwise here; null: it is none that can be read. */
export async function lookInFile(
  text: string,
  fields: readonly Field[],
): Promise<{ look: Look; label: Label | null; losses: readonly string[] } | null> {
  const read = await readSld(text, fields);
  return read?.look ? { look: read.look, label: read.label, losses: read.losses } : null;
}
