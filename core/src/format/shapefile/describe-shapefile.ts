import { viewOf, type ByteSource } from '../../bytes/byte-source.js';
import { guessEncoding } from '../../bytes/guess-encoding.js';
import { identifyCrs } from '../../crs/identify.js';
import type { CrsTable } from '../../crs/crs-table.js';
import { emptyDescription, unreadable, type Crs, type Description, type FileGroup, type Finding } from '../../dataset/dataset.js';
import { endingOf } from '../../dataset/formats.js';
import { explain } from '../../problem.js';
import { encodingLabelled, encodingOfCpg, encodingOfLdid, type TextEncoding } from './encoding.js';
import { readDbfHeader, DBF_HEADER_BYTES, DBF_LONGEST_HEADER_BYTES, END_OF_FIELDS, type DbfHeader } from './read-dbf-header.js';
import { readShpHeader, SHP_HEADER_BYTES } from './read-shp-header.js';
import { SHAPE_TYPES } from './shape-types.js';

export type Open = (path: string) => ByteSource;

const LONGEST_PRJ_BYTES = 64 * 1024;

export const companion = (group: FileGroup, ending: string): string | null => {
  const exact = [...group.companions, ...group.borrowed].find((f) => endingOf(f.path) === ending);
  return exact ? exact.path : null;
};

function readSmallText(path: string, open: Open, most = LONGEST_PRJ_BYTES): string {
  return new TextDecoder('utf-8').decode(open(path).read(0, most));
}

/** What stands in the `.prj` beside, if one does. */
function readPrj(group: FileGroup, open: Open, table: CrsTable): Crs | null {
  const path = companion(group, 'prj');
  return path ? identifyCrs(readSmallText(path, open), table) : null;
}

function readCpg(group: FileGroup, open: Open): TextEncoding | null {
  const path = companion(group, 'cpg');
  return path ? encodingOfCpg(readSmallText(path, open, 64)) : null;
}

/** Most tables have few fields: a small first read, and a second one only where the header says it is longer. */
const DBF_USUAL_HEADER_BYTES = 2048;
function readHead(source: ByteSource): Uint8Array {
  const start = source.read(0, DBF_USUAL_HEADER_BYTES);
  const isWhole = start.length < 10 || viewOf(start).getUint16(8, true) <= start.length;
  return isWhole ? start : source.read(0, DBF_LONGEST_HEADER_BYTES);
}

/** The `.cpg` is only opened where a field name has bytes beyond ASCII: most tables spare that. */
export function readDbf(path: string, group: FileGroup, open: Open) {
  const head = readHead(open(path));
  return readDbfHeader(path, viewOf(head), hasHighBytes(head) ? readCpg(group, open) : null);
}

/** How the text of a table is encoded, and who says so. */
interface TableEncoding {
  readonly name: string;
  readonly from: '.cpg' | 'header' | 'statistics' | 'nobody';
  /** 0 to 1. */
  readonly confidence: number;
}

export interface TableForRows {
  readonly header: DbfHeader;
  readonly encoding: TableEncoding;
}

const SAMPLE_BYTES = 1 << 16;

/**
 * As `readDbf`, with an encoding for its values, which have bytes beyond ASCII where names have none: the `.cpg`, then the
 * header's own byte, then statistics over the first rows. Null: the table is damaged.
 */
export function readTableForRows(path: string, group: FileGroup, open: Open): TableForRows | null {
  const head = viewOf(readHead(open(path)));
  const stated = readCpg(group, open);
  const first = readDbfHeader(path, head, stated);
  if (!first.ok) return null;
  const { headerBytes, recordBytes, ldid, encoding } = first.value;
  if (stated) return { header: first.value, encoding: { name: stated.name, from: '.cpg', confidence: 1 } };
  if (encodingOfLdid(ldid)) return { header: first.value, encoding: { name: encoding.name, from: 'header', confidence: 1 } };
  const guessed = guessEncoding(open(path).read(headerBytes, Math.max(recordBytes, SAMPLE_BYTES)));
  if (!guessed) return { header: first.value, encoding: { name: 'ASCII', from: 'nobody', confidence: 1 } };
  const name = guessed.label === 'utf-8' ? 'UTF-8' : guessed.label.replace('windows', 'Windows').replace('iso', 'ISO');
  const header = readDbfHeader(path, head, encodingLabelled(guessed.label, name));
  return header.ok ? { header: header.value, encoding: { name, from: 'statistics', confidence: guessed.confidence } } : null;
}

function hasHighBytes(head: Uint8Array): boolean {
  for (let at = DBF_HEADER_BYTES; at < head.length && head[at] !== END_OF_FIELDS; at += DBF_HEADER_BYTES)
    for (let i = at; i < at + 11 && i < head.length; i++) if (head[i]! >= 0x80) return true;
  return false;
}

/** Headers of a shapefile: 100 bytes of `.shp`, the size of `.shx`, the fields of `.dbf`, `.prj`, `.cpg`. */
export function describeShapefile(group: FileGroup, open: Open, table: CrsTable): Description {
  const source = open(group.path);
  const header = readShpHeader(group.path, viewOf(source.read(0, SHP_HEADER_BYTES)));
  if (!header.ok) return unreadable('vector', explain(header.problem));
  const findings: Finding[] = [];
  if (header.value.statedBytes > source.sizeBytes)
    return {
      ...unreadable(
        'vector',
        explain({ code: 'truncated', file: group.path, neededBytes: header.value.statedBytes, gotBytes: source.sizeBytes }),
      ),
      geometryType: SHAPE_TYPES[header.value.shapeType]!.geometryType,
    };
  if (header.value.statedBytes < source.sizeBytes)
    findings.push({
      code: 'length-differs',
      message: `The header says ${header.value.statedBytes} bytes, the file has ${source.sizeBytes}. Most programs read it all the same; exporting it again sets the header right.`,
    });
  const dbf = readTable(group, open, findings);
  const shx = group.companions.find((f) => endingOf(f.path) === 'shx');
  const crs = readPrj(group, open, table);
  if (!crs)
    findings.push({
      code: 'no-crs',
      message: `${group.path} has no .prj, so its CRS is not known.`,
      fix: 'Ask its publisher for the .prj, or state the CRS.',
    });
  const missing = [shx ? '' : '.shx', companion(group, 'dbf') ? '' : '.dbf'].filter(Boolean);
  if (missing.length)
    findings.push({
      code: 'companion-missing',
      message: `${group.path} has lost ${missing.join(' and ')}. ${missing.includes('.dbf') ? 'Its shapes are there, its field values are not.' : 'Programs that need the index will not open it.'}`,
      fix: 'Look for the file where the dataset came from.',
    });
  const indexed = shx ? Math.max(0, Math.floor((shx.bytes - SHP_HEADER_BYTES) / 8)) : null;
  if (indexed !== null && dbf && dbf.records !== indexed)
    findings.push({ code: 'counts-differ', message: `The table says ${dbf.records} records, the index has ${indexed} shapes.` });
  return {
    ...emptyDescription('vector'),
    state: missing.length ? 'incomplete' : 'ok',
    geometryType: SHAPE_TYPES[header.value.shapeType]!.geometryType,
    featureCount: indexed ?? dbf?.records ?? null,
    fields: dbf ? dbf.fields.map((f) => ({ name: f.name, type: f.type })) : null,
    crs,
    bbox: header.value.bbox,
    findings,
  };
}

function readTable(group: FileGroup, open: Open, findings: Finding[]): DbfHeader | null {
  const path = companion(group, 'dbf');
  if (!path) return null;
  const header = readDbf(path, group, open);
  if (header.ok) return header.value;
  findings.push({ code: 'table-unreadable', message: explain(header.problem) });
  return null;
}

/** A `.dbf` that stands alone. */
export function describeDbfTable(group: FileGroup, open: Open): Description {
  const header = readDbf(group.path, group, open);
  if (!header.ok) return unreadable('table', explain(header.problem));
  return {
    ...emptyDescription('table'),
    featureCount: header.value.records,
    fields: header.value.fields.map((f) => ({ name: f.name, type: f.type })),
  };
}
