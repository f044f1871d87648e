import {
  arcsLost,
  dbfHeader,
  DbfSurvey,
  emptyBox,
  kindOfWkb,
  lossOf,
  shapeHeader,
  shapeOf,
  shapeTypeFor,
  widenBox,
  writeDbfRecord,
  type DbfLayout,
  type Loss,
} from '@rootmap/core';
import { FileSink } from './file-sink.js';
import type { ExportSource, ExportTally } from './export-source.js';

/** Offsets in a `.shx` count words of 16 bits in a signed 32-bit number, and many programs count bytes in one: 2 GiB less one byte. */
export const MOST_COMPONENT_BYTES = 2_147_483_647;

export interface ShapefilePlan {
  /** Null: a table without shapes, as a `.dbf` alone. */
  readonly shapeType: number | null;
  readonly layout: DbfLayout;
  /** The dataset has no field: a column with the number of each record stands in, since a table needs one. */
  readonly isNumbered: boolean;
  readonly records: number;
  readonly bytes: Readonly<Record<'shp' | 'shx' | 'dbf', number>>;
  readonly losses: readonly Loss[];
}

/** Looks at every record: how wide the columns must be, how large the files get. Null: shapes of several kinds have no place in one. */
export function planShapefile(source: ExportSource): ShapefilePlan | null {
  const shapeType = source.kind === null ? null : shapeTypeFor(source.kind);
  return source.kind !== null && shapeType === null ? null : planAs(source, shapeType);
}

/** Some records may have heights where the table states none: then all shapes get them. */
function planAs(source: ExportSource, shapeType: number | null): ShapefilePlan {
  const { kind } = source;
  const { fields, features } = source.records();
  const survey = new DbfSurvey(fields);
  let count = 0;
  let shp = 100;
  let nulls = 0;
  let [heights, measures] = [0, 0];
  for (const { geometry, values } of features) {
    count++;
    survey.add(values);
    if (shapeType === null) continue;
    const suffix = geometry ? (/[ZM]+$/.exec(kindOfWkb(geometry) ?? '')?.[0] ?? '') : '';
    if (suffix.includes('Z')) heights++;
    if (suffix.includes('M')) measures++;
    const content = geometry ? shapeOf(geometry, shapeType) : null;
    if (!geometry) nulls++;
    shp += 8 + (content?.length ?? 4);
  }
  if (shapeType !== null && heights > 0 && shapeType < 10) return planAs(source, shapeType + 10);
  const own = survey.layout();
  const isNumbered = own.columns.length === 0;
  const layout = isNumbered ? { ...own, ...NUMBERED } : own;
  const dbf = 33 + layout.columns.length * 32 + count * layout.recordBytes + 1;
  const flat = count - nulls - heights;
  const losses = [
    ...layout.losses,
    ...arcsLost(source.arcs),
    ...lossOf(
      'no-shape',
      kind === null ? 0 : nulls,
      'record has no shape: it becomes a null shape',
      'records have no shape: they become null shapes',
    ),
    ...lossOf('heights', shapeType! > 20 ? heights : 0, 'record loses its heights (Z)', 'records lose their heights (Z)'),
    ...lossOf(
      'heights',
      heights > 0 && shapeType! < 20 ? flat : 0,
      'record has no height (Z), and gets 0',
      'records have no height (Z), and get 0',
    ),
    ...lossOf('measures', shapeType! < 10 ? measures : 0, 'record loses its measures (M)', 'records lose their measures (M)'),
  ];
  return { shapeType, layout, isNumbered, records: count, bytes: { shp, shx: 100 + count * 8, dbf }, losses };
}

const NUMBERED: Pick<DbfLayout, 'columns' | 'recordBytes'> = {
  columns: [{ name: 'id', code: 'N', lengthBytes: 9, decimals: 0, from: 0, type: 'integer' }],
  recordBytes: 10,
};

/** Writes `.shp`, `.shx` and `.dbf`; their headers last, when extents and counts are known. */
export function writeShapefileExport(
  source: ExportSource,
  plan: ShapefilePlan,
  pathOf: (ending: string) => string,
  tally: ExportTally,
): void {
  const { shapeType } = plan;
  const { columns, recordBytes } = plan.layout;
  const [shp, shx] = shapeType === null ? [null, null] : [new FileSink(pathOf('shp')), new FileSink(pathOf('shx'))];
  const dbf = new FileSink(pathOf('dbf'));
  try {
    const box = emptyBox();
    shp?.write(new Uint8Array(100));
    shx?.write(new Uint8Array(100));
    dbf.write(dbfHeader(columns, 0, new Date()));
    const record = new Uint8Array(recordBytes);
    for (const feature of source.records().features) {
      const { geometry, values } = feature;
      const content = shapeType === null ? null : geometry ? shapeOf(geometry, shapeType) : new Uint8Array(4);
      tally.add(feature, shapeType === null || content !== null);
      if (shp && shx) {
        if (!content) continue;
        widenBox(box, content);
        const index = Buffer.alloc(8);
        index.writeInt32BE(shp.bytes / 2, 0);
        index.writeInt32BE(content.length / 2, 4);
        shx.write(index);
        const head = Buffer.alloc(8);
        head.writeInt32BE(tally.written, 0);
        head.writeInt32BE(content.length / 2, 4);
        shp.write(head);
        shp.write(content);
      }
      writeDbfRecord(columns, plan.isNumbered ? [tally.written] : values, record);
      dbf.write(record);
    }
    dbf.write(Uint8Array.of(0x1a));
    dbf.patchHead(dbfHeader(columns, tally.written, new Date()));
    if (shapeType !== null) {
      shp!.patchHead(shapeHeader(shapeType, shp!.bytes, box));
      shx!.patchHead(shapeHeader(shapeType, shx!.bytes, box));
    }
  } finally {
    for (const sink of [shp, shx, dbf]) sink?.close();
  }
}
