import { spawn, type ChildProcess } from 'node:child_process';

/** The servers that stand in for those of others, in a process of their own. */
export class StandIns {
  private child: ChildProcess | null = null;
  /** `http://127.0.0.1:PORT` */
  address = '';
  /** The same behind a certificate that it signed itself. */
  secure = '';

  async start({ soundings = 0 } = {}): Promise<void> {
    const child = spawn(process.execPath, ['demo/dist/standins/main.js', '--port', '0', '--soundings', String(soundings)], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    this.child = child;
    const told = await new Promise<string>((done, failed) => {
      let all = '';
      child.stdout.on('data', (piece) => {
        all += String(piece);
        if (/signed by itself.*\n/.test(all)) done(all);
      });
      child.once('exit', (code) => failed(new Error(`the stand-ins ended with ${code}`)));
    });
    this.address = /(http:\/\/[^/]+)\/library/.exec(told)![1]!;
    this.secure = /(https:\/\/[^/]+)\/library/.exec(told)![1]!;
  }
  get host(): string {
    return new URL(this.address).host;
  }
  async switch(switches: Readonly<Record<string, boolean>>): Promise<void> {
    const ask = () =>
      fetch(`${this.address}/switches`, {
        method: 'PUT',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(switches),
      });
    // A test that blocked its own process for long finds a connection that was closed meanwhile.
    const answer = await ask().catch(ask);
    if (!answer.ok) throw new Error(await answer.text());
  }
  stop(): void {
    this.child?.kill('SIGKILL');
  }
}
