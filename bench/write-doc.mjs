import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import prettier from 'prettier';
import { root } from './lib.mjs';

/** Writes a page of docs/, laid out as the others are. */
export async function writeDoc(name, text) {
  const config = await prettier.resolveConfig(join(root, 'docs', name));
  writeFileSync(join(root, 'docs', name), await prettier.format(text, { ...config, parser: 'markdown' }));
}
