// Shared by the benches. Every figure is a ratio to a yardstick of the same run; seconds stand beside a calibration loop.
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url));

/** A fixed piece of work, so that seconds of two machines can be compared. */
export function calibrate() {
  const started = performance.now();
  let x = 1;
  for (let i = 0; i < 60_000_000; i++) x = (Math.imul(x, 1664525) + 1013904223) | 0;
  if (x === 0) throw new Error('unreachable');
  return performance.now() - started;
}

export const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];

/** Milliseconds of a command, the median of some runs. */
export function timeCommand(command, args, runs = 5, options = {}) {
  return median(
    Array.from({ length: runs }, () => {
      const started = performance.now();
      const r = spawnSync(command, args, { stdio: ['ignore', 'pipe', 'pipe'], maxBuffer: 1 << 30, ...options });
      if (r.error) throw r.error;
      return performance.now() - started;
    }),
  );
}

export class Server {
  folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-'));
  async start(env) {
    const started = performance.now();
    this.child = spawn(process.execPath, ['server/dist/bundle/main.js'], {
      cwd: root,
      env: { ...process.env, ROOTMAP_DATA: join(this.folder, 'data'), ROOTMAP_PORT: '0', ROOTMAP_LOG: 'error', ...env },
    });
    this.child.stderr.pipe(process.stderr);
    this.base = await new Promise((resolve, reject) => {
      this.child.stdout.on('data', (d) => {
        const m = /http:\/\/\S+/.exec(String(d));
        if (m) resolve(m[0]);
      });
      this.child.on('exit', (code) => reject(new Error(`the server ended with ${code}`)));
    });
    return performance.now() - started;
  }
  async call(method, path, body) {
    const r = await fetch(`${this.base}/api/${path}`, {
      method,
      ...(body ? { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {}),
    });
    if (!r.ok) throw new Error(`${path}: ${await r.text()}`);
    return r.json();
  }
  async remove(path) {
    const r = await fetch(`${this.base}/api/${path}`, { method: 'DELETE' });
    if (!r.ok) throw new Error(`${path}: ${await r.text()}`);
  }
  /** Ends the server and keeps its files. */
  async halt() {
    this.child.kill('SIGTERM');
    await new Promise((done) => this.child.once('exit', done));
  }
  async stop() {
    await this.halt();
    rmSync(this.folder, { recursive: true, force: true });
  }
}

const results = [];
/** `limit`: the most that the figure may be. */
export function report(what, value, limit, unit) {
  const ok = value <= limit;
  results.push(ok);
  console.log(`${ok ? 'ok  ' : 'OVER'} ${what}: ${value.toFixed(2)}${unit} (at most ${limit}${unit})`);
}
export const allOk = () => results.every(Boolean);
