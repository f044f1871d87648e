import { existsSync } from 'node:fs';
import { byCodePoint, datasetId, lossWords, ProblemError, type Progress, type ThreeBands } from '@rootmap/core';
import {
  basename,
  dirname,
  checkGeodatabase,
  datasetsOfFile,
  planImport,
  refuseOtherSpelling,
  runChange,
  stageEmpty,
  isShared,
  withHalfHelper,
  bringIn as importAll,
  writeImport,
  type Find,
  join,
} from '@rootmap/engine';
import type { Answer, Call, Command } from '../command.js';
import { datasetsFrom } from '../datasets-from.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { crsFlag, SELECTION_FLAGS, selectionFrom } from '../selection.js';
import { columns, many } from '../text.js';

const wrongUse = (message: string): ProblemError => new ProblemError({ code: 'wrong-use', message });

export const geodatabase: Command = {
  usage:
    'geodatabase create FILE [--crs EPSG:n] | import FILE SOURCE… [--name TABLE] [--band N[,N…]|all | --composite R,G,B] [--to-crs EPSG:n] [--make-valid] [--where FILTER] [--box=W,S,E,N [--box-crs EPSG:n]] | list FILE | check FILE',
  summary: 'Makes a geodatabase, brings datasets into it, lists its tables, holds it against the standard.',
  examples: [
    'geodatabase create work.gpkg --crs EPSG:32624',
    'geodatabase import work.gpkg originals/beds.shp --to-crs EPSG:32624',
    'geodatabase import work.gpkg originals/beds.shp --where "depth_m > 5" --name deep_beds',
    'geodatabase check work.gpkg',
  ],
  flags: {
    crs: { type: 'string' },
    name: { type: 'string' },
    band: { type: 'string' },
    composite: { type: 'string' },
    'to-crs': { type: 'string' },
    'make-valid': { type: 'boolean' },
    ...SELECTION_FLAGS,
  },
  paths: [2, 200],
  run: async (call) => {
    const verb = basename(call.paths[0]!);
    const file = call.paths[1]!;
    if (verb === 'import') return bringIn(call, file, call.paths.slice(2));
    if (call.paths.length > 2) throw wrongUse(`rootmap geodatabase ${verb} takes one FILE.`);
    if (verb === 'create') return create(call, file);
    if (verb === 'list') return list(call, file);
    if (verb === 'check') return check(call, file);
    throw wrongUse(`There is no "geodatabase ${verb}": create, import, list and check are there.`);
  },
};

/** Bands that become the red, green and blue of a picture; null: none do. */
function compositeFlag(call: Call): ThreeBands | null {
  const { composite, band } = call.flags;
  if (composite === undefined) return null;
  if (band !== undefined) throw wrongUse('Choose one: --band, each as a table, or --composite, three as a picture.');
  const three = String(composite).split(',').map(Number);
  if (three.length !== 3 || !three.every((n) => Number.isInteger(n) && n > 0 && n < 65_536))
    throw wrongUse('--composite takes three numbers of bands, from 1: red, green, blue.');
  return three as unknown as ThreeBands;
}

/** Each becomes a table; null: as the raster is shown by itself. @param all how many bands it has */
function bandFlag(call: Call, all: () => number): readonly (number | null)[] {
  const bands = call.flags['band'];
  if (bands === undefined) return [null];
  if (bands === 'all') return Array.from({ length: all() }, (_, i) => i + 1);
  if (typeof bands !== 'string' || !/^[1-9]\d{0,4}(,[1-9]\d{0,4})*$/.test(bands))
    throw wrongUse('--band takes numbers of bands, from 1, with commas between, or "all".');
  return [...new Set(bands.split(',').map(Number))];
}

function tablesOf(file: string) {
  return datasetsOfFile(file)
    .map(({ dataset: d }) => d)
    .filter((d) => d.table !== null)
    .sort((a, b) => byCodePoint(a.table!, b.table!))
    .map((d) => ({
      name: d.table!,
      kind: d.kind,
      ...(d.geometryType === null ? {} : { geometryType: d.geometryType }),
      ...(d.featureCount === null ? {} : { featureCount: d.featureCount }),
      crs: d.crs?.code ?? d.crs?.name ?? null,
      bbox: d.bbox,
    }));
}

/** With the project that the file stands in. */
const headsOf = (call: Call, file: string) => heads(scopeOf(call, dirname(file)));

async function create(call: Call, file: string): Promise<Answer> {
  if (!/\.gpkg$/i.test(file)) throw new ProblemError({ code: 'bad-name', name: basename(file), why: 'a geodatabase ends in .gpkg' });
  if (existsSync(file)) throw new ProblemError({ code: 'exists', path: file });
  refuseOtherSpelling(file);
  const root = scopeOf(call, dirname(file)).root ?? dirname(file);
  const change = {
    title: `Make the geodatabase ${basename(file)}`,
    kind: 'new' as const,
    root,
    who: who(),
    steps: [{ kind: 'install' as const, path: file }],
  };
  await withJournal((options) => runChange(change, { ...options, stage: stageEmpty(crsFlag(call, 'crs')) }));
  return { json: { ...headsOf(call, file), file, tables: tablesOf(file) }, text: [`${file} made`], status: 0 };
}

async function bringIn(call: Call, file: string, sources: readonly string[]): Promise<Answer> {
  if (sources.length === 0) throw wrongUse('Say what is to be brought in: rootmap geodatabase import FILE SOURCE…');
  const found = new Map(
    sources.flatMap((s) => datasetsFrom(s).map((f) => [datasetId(join(f.folder, f.dataset.group.path), f.dataset.table), f] as const)),
  );
  const name = call.flags['name'];
  if (typeof name === 'string' && found.size > 1) throw wrongUse('--name is for one dataset. Bring them in one by one to name them.');
  const composite = compositeFlag(call);
  if ((call.flags['band'] !== undefined || composite) && found.size > 1)
    throw wrongUse('--band and --composite are for one raster. Bring them in one by one to choose bands.');
  const [first] = found.values();
  const bands = bandFlag(call, () => first?.dataset.raster?.bands ?? 1);
  if (typeof name === 'string' && bands.length > 1) throw wrongUse('--name is for one table, and each band becomes one.');
  const find: Find = (id) => found.get(id)!;
  const table = typeof name === 'string' ? name : '';
  const selection = selectionFrom(call);
  const items = [...found.keys()].flatMap((dataset) => bands.map((band) => ({ dataset, part: null, table, band, composite, selection })));
  const onProgress = ({ item, done }: Progress): void => call.progress(`${item}: ${done}`);
  const { plan, receipts, failed } = await withHalfHelper(import.meta.url, true, (helper) => {
    if ([...found.values()].some(isShared)) helper?.start(); // it gets ready while the import is planned
    return importAll(items, {
      plan: (left) => planImport(scopeOf(call, dirname(file)), find, file, left, crsFlag(call, 'to-crs'), who()),
      write: (wanted, staged) =>
        writeImport(find, wanted, file, staged, onProgress, { helper, makesValid: call.flags['make-valid'] === true }),
      apply: (change, _, stage) => withJournal(async (options) => void (await runChange(change, { ...options, stage }))),
    });
  });
  const refused = [...plan.items.filter((i) => i.why !== null), ...failed];
  const imported = receipts.map((r) => ({
    source: r.dataset,
    table: r.table,
    notes: plan.items.find((i) => i.dataset === r.dataset && i.table === r.table)?.notes ?? [],
    read: r.read,
    written: r.written,
    skipped: r.skipped.map((s) => ({ row: s.record, why: s.why })),
    equal: r.isEqual,
    invalid: r.invalid,
    madeValid: r.fixed,
    losses: r.losses,
    ...(r.compared ? { compared: r.compared } : {}),
  }));
  const isWhole = refused.length === 0 && imported.every((i) => i.skipped.length === 0 && i.equal);
  return {
    json: {
      ...headsOf(call, file),
      file,
      imported,
      refused: refused.map((i) => ({ source: i.dataset, why: i.why })),
      tables: existsSync(file) ? tablesOf(file) : [],
    },
    text: [
      ...imported.flatMap((i) => [
        `${i.table}: ${i.read} read, ${i.written} written, ${i.skipped.length} left out${i.equal ? '' : '; read back, values differ'}`,
        ...i.notes.map((note) => `    ${note}`),
        ...(i.losses.length > 0 ? [`    lost or changed: ${i.losses.map(lossWords).join('; ')}`] : []),
      ]),
      ...refused.map((i) => `left out: ${i.dataset}: ${i.why}`),
    ],
    status: isWhole ? 0 : 1,
  };
}

function list(call: Call, file: string): Promise<Answer> {
  const damage = damageOf(file);
  const tables = damage ? [] : tablesOf(file);
  return Promise.resolve({
    json: { ...headsOf(call, file), file, tables },
    text: [
      ...columns(
        tables.map((t) => [t.name, t.geometryType ?? t.kind, t.featureCount === undefined ? '' : String(t.featureCount), t.crs ?? '']),
      ),
      damage ?? many(tables.length, 'table'),
    ],
    status: damage ? 1 : 0,
  });
}

function damageOf(file: string): string | null {
  if (!existsSync(file)) throw new ProblemError({ code: 'missing', path: file });
  return datasetsOfFile(file).find(({ dataset: d }) => d.state === 'unreadable')?.dataset.findings[0]?.message ?? null;
}

function check(call: Call, file: string): Promise<Answer> {
  if (!existsSync(file)) throw new ProblemError({ code: 'missing', path: file });
  const findings = checkGeodatabase(file);
  const breaks = findings.filter((f) => f.requirement !== null);
  return Promise.resolve({
    json: { ...headsOf(call, file), file, valid: breaks.length === 0, findings },
    text:
      findings.length === 0
        ? ['as the standard asks']
        : findings.map(
            (f) => `${f.requirement === null ? '' : `requirement ${f.requirement}: `}${f.table ? `${f.table}: ` : ''}${f.message}`,
          ),
    status: breaks.length === 0 ? 0 : 1,
  });
}
