// The tests' damaged worlds and their judge, which are TypeScript, made ready for a bench.
import { transformSync } from '@swc/core';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root as repository } from './lib.mjs';

const out = join(repository, 'engine', 'dist', 'measure');
mkdirSync(out, { recursive: true });
const parts = ['world', 'variants', 'kept', 'build', 'hurt', 'truth', 'damage-world', 'measure-mend'].map((name) => `damage/${name}`);
mkdirSync(join(out, 'damage'), { recursive: true });
for (const name of ['plain-data', 'small-zip', ...parts]) {
  const source = readFileSync(join(repository, 'engine', 'test', `${name}.ts`), 'utf8');
  writeFileSync(join(out, `${name}.js`), transformSync(source, { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' } }).code);
}
export const { Measure } = await import(join(out, 'damage', 'measure-mend.js'));
