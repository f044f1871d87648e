import { existsSync, readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { chooseCode, type CrsTable, type SameCrs } from '@rootmap/core';
import { CodeRows } from './code-rows.js';

/** `[code, name, signature]`, made by scripts/make-crs-table.mjs. */
type Row = readonly [number, string, string | null];
/** `[code, name, signature, is plain]` in the common dialect of `.prj`, made by scripts/make-crs-dialect.mjs. */
type DialectRow = readonly [number, string, string, 0 | 1];

/** A table that ships with the engine. */
export const readTable = <T>(name: string): T[] => JSON.parse(bytesOf(name).toString('utf8')) as T[];

function bytesOf(name: string): Buffer {
  const beside = new URL(`./${name}`, import.meta.url); // where a bundle keeps it
  const bytes = readFileSync(existsSync(beside) ? beside : new URL(`../../data/${name}`, import.meta.url));
  return name.endsWith('.gz') ? gunzipSync(bytes) : bytes;
}

/** NaN, which no row has, for what is no code of the EPSG. */
const numberOf = (code: string): number => Number(/^EPSG:([1-9]\d*)$/.exec(code)?.[1]);

let loaded: { byCode: Map<string, string>; bySignature: Map<string, string | null> } | null = null;

function load() {
  if (loaded) return loaded;
  const rows = readTable<Row>('crs.json');
  const byCode = new Map<string, string>();
  const bySignature = new Map<string, string | null>();
  for (const [code, name, signature] of rows) {
    byCode.set(`EPSG:${code}`, name);
    // Two codes of one definition cannot be told apart by the text: neither is claimed.
    if (signature) bySignature.set(signature, bySignature.has(signature) ? null : `EPSG:${code}`);
  }
  loaded = { byCode, bySignature };
  return loaded;
}

let dialect: Map<string, SameCrs[]> | null = null;

function loadDialect(): Map<string, SameCrs[]> {
  if (dialect) return dialect;
  dialect = new Map();
  const { byCode } = load();
  for (const [number, name, signature, isPlain] of readTable<DialectRow>('crs-dialect.json.gz')) {
    const code = `EPSG:${number}`;
    const crs: SameCrs = { code, names: [name, byCode.get(code) ?? name], isPlain: isPlain === 1 };
    const same = dialect.get(signature);
    if (same) same.push(crs);
    else dialect.set(signature, [crs]);
  }
  return dialect;
}

/** `[code, code of the flat one]`, made by scripts/make-crs-flat.mjs. */
type FlatRow = readonly [number, number];
let flat: Map<string, string> | null = null;

let names: CodeRows<Row> | null = null;
const nameOf = (code: string): string | null => (names ??= new CodeRows(bytesOf('crs.json'))).row(numberOf(code))?.[1] ?? null;

/** `[code, proj4 string, WKT 1]`, made by scripts/make-crs-table.mjs. */
type DefinitionRow = readonly [number, string, string];
let definitions: CodeRows<DefinitionRow> | null = null;
/** How a registered CRS is computed and written. @param code `EPSG:n` */
export const definitionRow = (code: string): DefinitionRow | null =>
  (definitions ??= new CodeRows(bytesOf('crs-definition.json'))).row(numberOf(code));

/** The registered CRSs, read at first use. */
export const crsTable: CrsTable = {
  codeOf: (signature, name) => load().bySignature.get(signature) ?? chooseCode(loadDialect().get(signature) ?? [], name),
  nameOf,
  textOf: (code) => definitionRow(code)?.[2] ?? null,
  flatOf: (code) =>
    (flat ??= new Map(readTable<FlatRow>('crs-flat.json').map(([own, of]) => [`EPSG:${own}`, `EPSG:${of}`]))).get(code) ?? null,
};
