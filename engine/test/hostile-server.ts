import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';

export type Answering = (request: IncomingMessage, response: ServerResponse) => void;

/** A server on this machine that answers as a test wants it, and remembers what it was asked. */
export class TestHttp {
  private server: Server | null = null;
  private answers: Record<string, Answering> = {};
  /** Path and headers of each request. */
  readonly asked: { readonly url: string; readonly method: string; readonly headers: IncomingMessage['headers'] }[] = [];

  async start(): Promise<void> {
    this.server = createServer((request, response) => {
      this.asked.push({ url: request.url ?? '', method: request.method ?? '', headers: request.headers });
      const path = (request.url ?? '').split('?')[0]!;
      const answer = this.answers[path] ?? this.answers['*'];
      if (answer) answer(request, response);
      else response.writeHead(404).end();
    });
    await new Promise<void>((done) => this.server!.listen(0, '127.0.0.1', done));
  }
  get port(): number {
    return (this.server!.address() as AddressInfo).port;
  }
  get host(): string {
    return `127.0.0.1:${this.port}`;
  }
  at(path: string): string {
    return `http://${this.host}${path}`;
  }
  /** From now on; '*' is all that has no answer of its own. */
  answer(answers: Record<string, Answering>): void {
    this.answers = answers;
    this.asked.length = 0;
  }
  async stop(): Promise<void> {
    this.server?.closeAllConnections();
    await new Promise((done) => this.server?.close(done));
  }
}

export const json =
  (value: unknown, headers: Record<string, string> = {}): Answering =>
  (_, response) =>
    response.writeHead(200, { 'content-type': 'application/json', ...headers }).end(JSON.stringify(value));
export const text =
  (content: string | Buffer, headers: Record<string, string> = {}, status = 200): Answering =>
  (_, response) =>
    response.writeHead(status, headers).end(content);
