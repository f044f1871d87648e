import { memorySource, type ByteSource } from '../src/bytes/byte-source';
import type { FileGroup } from '../src/dataset/dataset';

/** A table of text in memory, with a `.csvt` and metadata beside it or without. */
export function csvFile(
  content: string | Uint8Array,
  csvt?: string,
  metadata?: string,
): { group: FileGroup; open: (path: string) => ByteSource } {
  const file = (path: string) => ({ path, bytes: 0, modifiedMs: 0 });
  const bytes = (text: string | Uint8Array): Uint8Array => (typeof text === 'string' ? new TextEncoder().encode(text) : text);
  const companions = [...(csvt === undefined ? [] : [file('a.csvt')]), ...(metadata === undefined ? [] : [file('a.csv-metadata.json')])];
  const group: FileGroup = { format: 'csv', kind: 'table', path: 'a.csv', main: file('a.csv'), companions, borrowed: [] };
  return { group, open: (path) => memorySource(bytes(path === 'a.csv' ? content : path === 'a.csvt' ? csvt! : metadata!)) };
}
