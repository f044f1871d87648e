import type { ByteSource } from '../../bytes/byte-source.js';
import type { FileGroup } from '../../dataset/dataset.js';
import { setAt } from '../../json/set-at.js';
import { member, parseJsonTree, textOf, type JsonNode } from '../../json/json-tree.js';

/** What stands beside a table about how it is read (W3C, Metadata Vocabulary for Tabular Data, 5.9: dialect descriptions). */
export interface StatedDialect {
  /** One character. */
  readonly delimiter: string | null;
  /** A label of the WHATWG Encoding Standard. */
  readonly encoding: string | null;
  /** Its first row names the columns. */
  readonly hasNames: boolean | null;
}
export interface StatedLayout extends StatedDialect {
  /** Why some of it is not followed, for the middle of a sentence; null: all of it is. */
  readonly fault: string | null;
}

/** Behind the whole name of the table (the same document, 5.3: default locations). */
export const CSVW_ENDING = '-metadata.json';
const NOTHING: StatedLayout = { delimiter: null, encoding: null, hasNames: null, fault: null };
const LONGEST = 1 << 20;

/** What the metadata beside a table state; nothing where there are none. */
export function statedLayout(group: FileGroup, open: (path: string) => ByteSource): StatedLayout {
  const file = group.companions.find((f) => f.path.toLowerCase().endsWith(CSVW_ENDING));
  if (!file) return NOTHING;
  if (file.bytes > LONGEST) return { ...NOTHING, fault: 'it is too long' };
  const tree = parseJsonTree(file.path, new TextDecoder().decode(open(file.path).read(0, LONGEST)));
  if (!tree.ok || tree.value.kind !== 'object') return { ...NOTHING, fault: 'it is no JSON object' };
  return dialectOf(member(tree.value, 'dialect'));
}

function dialectOf(dialect: JsonNode | undefined): StatedLayout {
  const delimiter = textOf(dialect && member(dialect, 'delimiter')) ?? null;
  const encoding = textOf(dialect && member(dialect, 'encoding')) ?? null;
  const header = dialect && member(dialect, 'header');
  const faults: string[] = [];
  if (delimiter !== null && delimiter.length !== 1) faults.push(`its delimiter "${delimiter}" is not one character`);
  const isKnown = encoding === null || isEncoding(encoding);
  if (!isKnown) faults.push(`its encoding "${encoding}" is not known`);
  return {
    delimiter: delimiter?.length === 1 ? delimiter : null,
    encoding: isKnown ? (encoding?.toLowerCase() ?? null) : null,
    hasNames: header?.kind === 'scalar' && typeof header.value === 'boolean' ? header.value : null,
    fault: faults.length > 0 ? faults.join(', and ') : null,
  };
}

function isEncoding(label: string): boolean {
  try {
    new TextDecoder(label);
    return true;
  } catch {
    return false;
  }
}

/**
 * The metadata of a table with such a dialect; members that are null are taken out, and all else stays byte for byte.
 * @param before text that is there; null: none
 * @param table name of the file that it is about
 */
export function writeCsvw(before: string | null, table: string, { delimiter, encoding, hasNames }: StatedDialect): string {
  const base = before ?? `${JSON.stringify({ '@context': 'http://www.w3.org/ns/csvw', url: table }, null, 2)}\n`;
  const members = { delimiter, encoding, header: hasNames };
  return Object.entries(members).reduce((text, [name, value]) => setAt(text, ['dialect', name], value ?? undefined), base);
}
