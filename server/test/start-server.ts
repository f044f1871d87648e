import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { request } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from '@rootmap/engine';
import type { JobView } from '@rootmap/core/contract';

export interface Answer {
  readonly status: number;
  readonly body: unknown;
  readonly headers: Record<string, string | string[] | undefined>;
}

/** The built server as users run it, on a free port, with a data folder of its own. */
export class TestServer {
  readonly folder = mkdtempSync(join(tmpdir(), 'rootmap-server-'));
  private child: ChildProcess | null = null;
  port = 0;
  log = '';

  async start(env: Record<string, string> = {}): Promise<void> {
    this.child = spawn(process.execPath, ['server/dist/bundle/main.js'], {
      env: {
        ...process.env,
        ROOTMAP_DATA: join(this.folder, 'data'),
        ROOTMAP_PORT: '0',
        ROOTMAP_LOG: 'error',
        ROOTMAP_FILES: process.execPath, // no test opens windows on anybody's desk
        ...env,
      },
    });
    this.child.stderr!.on('data', (d) => (this.log += String(d)));
    this.port = await new Promise<number>((resolve, reject) => {
      this.child!.stdout!.on('data', (d) => {
        const port = /:(\d+) /.exec(String(d))?.[1];
        if (port) resolve(Number(port));
      });
      this.child!.on('exit', (code) => reject(new Error(`the server ended with ${code}: ${this.log}`)));
    });
  }

  get pid(): number {
    return this.child!.pid!;
  }

  async stop(): Promise<void> {
    const child = this.child;
    if (child && child.exitCode === null) await new Promise((done) => child.once('exit', done).kill('SIGTERM'));
    rmSync(this.folder, { recursive: true, force: true });
  }

  /** A raw request: the path goes out exactly as it is given. */
  ask(
    method: string,
    path: string,
    options: { body?: unknown; raw?: string; headers?: Record<string, string>; host?: string } = {},
  ): Promise<Answer> {
    const text = options.raw ?? (options.body === undefined ? undefined : JSON.stringify(options.body));
    return new Promise((resolve, reject) => {
      const headers = {
        host: `127.0.0.1:${this.port}`,
        ...(text === undefined ? {} : { 'content-type': 'application/json', 'content-length': String(Buffer.byteLength(text)) }),
        ...options.headers,
      };
      const r = request({ host: options.host ?? '127.0.0.1', port: this.port, method, path, headers }, (response) => {
        let data = '';
        response.on('data', (d) => (data += String(d)));
        response.on('end', () => {
          let body: unknown = data;
          try {
            body = JSON.parse(data);
          } catch {
            /* not JSON: the text itself is the body */
          }
          resolve({ status: response.statusCode!, body, headers: response.headers });
        });
      });
      r.on('error', (error: NodeJS.ErrnoException) => {
        // A connection that was kept may have been closed by the server just then (nodejs.org, http, request.reusedSocket).
        if (r.reusedSocket && error.code === 'ECONNRESET') this.ask(method, path, options).then(resolve, reject);
        else reject(error);
      });
      r.end(text);
    });
  }
  get = (path: string): Promise<Answer> => this.ask('GET', path);
  post = (path: string, body: unknown = {}): Promise<Answer> => this.ask('POST', path, { body });

  /** Waits for the end of a job. */
  async finished(id: string, tries = 400): Promise<JobView> {
    for (let i = 0; i < tries; i++) {
      const job = ((await this.get('/api/jobs')).body as JobView[]).find((j) => j.id === id);
      if (job && job.state !== 'running') return job;
      await new Promise((r) => setTimeout(r, 50));
    }
    throw new Error('the job did not end');
  }
}
