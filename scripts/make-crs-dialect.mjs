// Makes engine/data/crs-dialect.json.gz: for each CRS of engine/data/crs.json the signature of its text in the dialect of `.prj` files that
// is common in the trade, its name there, and whether it is the plain one of several that mean the same. The texts are PROJ's.
// Run after core is built, where python3-gdal is installed: node scripts/make-crs-dialect.mjs
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { crsSignature } from '../core/dist/crs/signature.js';
import { parseWkt } from '../core/dist/crs/wkt.js';

const codes = JSON.parse(readFileSync(new URL('../engine/data/crs.json', import.meta.url), 'utf8')).map(([code]) => code);
const script = new URL('crs-dialect.py', import.meta.url).pathname;
const texts = JSON.parse(execFileSync('/usr/bin/python3', [script], { input: JSON.stringify(codes), maxBuffer: 1 << 28 }).toString());
const rows = texts.flatMap(([code, name, text, isPlain]) => {
  const node = parseWkt(text);
  const signature = node && crsSignature(node);
  return signature ? [[code, name, signature, isPlain ? 1 : 0]] : [];
});
writeFileSync(new URL('../engine/data/crs-dialect.json.gz', import.meta.url), gzipSync(JSON.stringify(rows), { level: 9 }));
console.log(`${rows.length} of ${texts.length} texts have a signature`);
