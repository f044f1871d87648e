// Shared by the scripts. Node's built-ins only: these run before anything is installed.
import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url)).replace(/[\\/]$/, '');
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

/** npm by the file that it is: on Windows its command is a script of a shell, which nothing can start without one. */
export function npm(args, options) {
  const beside = join(dirname(node), 'node_modules', 'npm', 'bin', 'npm-cli.js');
  const file = process.env.npm_execpath ?? (existsSync(beside) ? beside : null);
  return file?.endsWith('.js') ? run(node, [file, ...args], options) : run('npm', args, options);
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
