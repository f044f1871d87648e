// Shared by the scripts. Node's built-ins only: these run before anything is installed.
import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url)).replace(/\/$/, '');
export const node = process.execPath;

/** Runs a program with its output shown; rejects where it fails. */
export function run(command, args, options = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { cwd: root, stdio: 'inherit', ...options });
    child.on('error', reject);
    child.on('exit', (code, signal) =>
      code === 0 ? resolve() : reject(new Error(`${command} ${args.join(' ')} ended with ${signal ?? code}`)),
    );
  });
}

export const stampFile = (name) => join(root, 'node_modules', '.rootmap', name);
export function isStamped(name, value) {
  return existsSync(stampFile(name)) && readFileSync(stampFile(name), 'utf8') === value;
}
export function stamp(name, value) {
  mkdirSync(dirname(stampFile(name)), { recursive: true });
  writeFileSync(stampFile(name), value);
}

export const hashOf = (...files) => {
  const hash = createHash('sha256');
  for (const file of files) hash.update(readFileSync(file));
  return hash.digest('hex');
};
