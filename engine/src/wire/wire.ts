import { withoutSecrets } from '@rootmap/core';
import { anyLookup, publicLookup } from './look-up.js';
import type { Readable } from 'node:stream';
import { Agent, request, type Dispatcher } from 'undici';
import { bareHost, isAllowed, isPublicAddress, type AllowedHosts } from './public-address.js';
import { noService, wireProblem } from './wire-problem.js';

/** How a server is told who asks. */
export type SignIn =
  | { readonly kind: 'password'; readonly name: string; readonly password: string }
  | { readonly kind: 'key'; readonly as: 'query' | 'header'; readonly name: string; readonly key: string };

export interface AskOptions {
  readonly signIn?: SignIn | null;
  readonly headers?: Readonly<Record<string, string>>;
  readonly accept?: string;
  readonly method?: 'GET' | 'HEAD';
  /** Until the whole answer is there; for a stream, until it begins and between two pieces. */
  readonly limitMs?: number;
  readonly mostBytes?: number;
  readonly signal?: AbortSignal;
}

export interface Answer {
  readonly status: number;
  readonly headers: Readonly<Record<string, string>>;
  /** Address that answered, without what is secret. */
  readonly url: string;
  readonly body: Buffer;
}
export interface StreamAnswer extends Omit<Answer, 'body'> {
  readonly body: Readable;
}

const ANSWER_LIMIT_MS = 5000;
const MOST_BYTES = 16 * 1024 * 1024;
const MOST_HOPS = 5;

const oneOf = (value: string | string[] | undefined): string => (Array.isArray(value) ? (value[0] ?? '') : (value ?? ''));
const megabytes = (bytes: number): string => `${Math.round(bytes / 1024 / 1024)} MB`;

/** Connections to hosts that are allowed by name, and to others: those of the one are never used for the other. */
interface Agents {
  readonly open: Agent;
  readonly guarded: Agent;
}

function agentsFor(): Agents {
  const settings = { connections: 8, pipelining: 1, keepAliveTimeout: 10_000, maxHeaderSize: 64 * 1024 };
  // Every request is bounded in time, so nobody need probe connections that are idle.
  const connect = { timeout: ANSWER_LIMIT_MS, keepAlive: false };
  return {
    open: new Agent({ ...settings, connect: { ...connect, lookup: anyLookup } }),
    guarded: new Agent({ ...settings, connect: { ...connect, lookup: publicLookup } }),
  };
}

/**
 * The only way to other servers. It goes to http and https, and to addresses that the whole network shares, unless a host is
 * allowed by name; an address is checked when the connection is made, so that a name that changes what it stands for gains
 * nothing. A redirect is followed
 * within the same host, or for a time to one that is allowed by name; another host is told, not asked. All throws are problems.
 */
export class Wire {
  constructor(
    private readonly allowed: () => AllowedHosts,
    private readonly agents: Agents = agentsFor(),
  ) {}

  /** The same connections for somebody to whom other hosts are allowed. */
  for(allowed: () => AllowedHosts): Wire {
    return new Wire(allowed, this.agents);
  }

  async close(): Promise<void> {
    await Promise.all([this.agents.open.destroy(), this.agents.guarded.destroy()]);
  }

  /** A whole answer of bounded size. Statuses below 400 come back; others throw. */
  async ask(address: string, options: AskOptions = {}): Promise<Answer> {
    const limitMs = options.limitMs ?? ANSWER_LIMIT_MS;
    const most = options.mostBytes ?? MOST_BYTES;
    const timeout = AbortSignal.timeout(limitMs);
    const signal = options.signal ? AbortSignal.any([options.signal, timeout]) : timeout;
    const host = hostOf(address);
    try {
      const { answer, url } = await this.follow(address, options, signal, limitMs);
      const pieces: Buffer[] = [];
      let bytes = 0;
      for await (const piece of answer.body as AsyncIterable<Buffer>) {
        bytes += piece.length;
        if (bytes > most) {
          drop(answer.body);
          throw noService(host, 'too-large', megabytes(most));
        }
        pieces.push(piece);
      }
      const headers = headersOf(answer);
      return { status: answer.statusCode, headers, url, body: withoutEcho(Buffer.concat(pieces), headers, options.signIn ?? null) };
    } catch (error) {
      if (options.signal?.aborted) throw error;
      if (timeout.aborted) throw noService(host, 'slow', `${Math.round(limitMs / 1000)} seconds`);
      throw wireProblem(error, host, limitMs);
    }
  }

  /** An answer as it comes, of any size. */
  async stream(address: string, options: AskOptions = {}): Promise<StreamAnswer> {
    const limitMs = options.limitMs ?? 15_000;
    try {
      const { answer, url } = await this.follow(address, options, options.signal, limitMs);
      return { status: answer.statusCode, headers: headersOf(answer), url, body: answer.body };
    } catch (error) {
      if (options.signal?.aborted) throw error;
      throw wireProblem(error, hostOf(address), limitMs);
    }
  }

  private async follow(address: string, options: AskOptions, signal: AbortSignal | undefined, limitMs: number) {
    let at = new URL(address);
    const first = at;
    for (let hop = 0; hop <= MOST_HOPS; hop++) {
      // What is secret is for the server that was linked, and for no other.
      const answer = await this.once(at, at.host === first.host ? options : { ...options, signIn: null }, signal, limitMs);
      const location = oneOf(answer.headers['location']);
      if (answer.statusCode < 300 || answer.statusCode >= 400 || location === '' || answer.statusCode === 304) {
        if (answer.statusCode >= 400) throw await refusalOf(answer, at, options.signIn ?? null);
        return { answer, url: told(at) };
      }
      drop(answer.body);
      const next = URL.canParse(location, at.href) ? new URL(location, at) : null;
      if (!next || !/^https?:$/.test(next.protocol)) throw noService(at.host, 'broken', 'it leads to something that is no web address');
      const isForGood = answer.statusCode === 301 || answer.statusCode === 308;
      if (next.host !== at.host && (isForGood || !isAllowed(next, this.allowed())))
        throw noService(at.host, 'moved', withoutKey(told(next), options.signIn ?? null));
      if (first.protocol === 'https:' && next.protocol === 'http:') throw noService(at.host, 'broken', 'it leads away from encryption');
      at = next;
    }
    throw noService(first.host, 'ring');
  }

  private async once(at: URL, options: AskOptions, signal: AbortSignal | undefined, limitMs: number): Promise<Dispatcher.ResponseData> {
    if (!/^https?:$/.test(at.protocol)) throw noService(at.host, 'broken', 'only http and https are asked');
    const isOpen = isAllowed(at, this.allowed());
    const { signIn = null } = options;
    const url = new URL(at);
    url.username = '';
    url.password = '';
    if (signIn && at.protocol === 'http:' && !isOpen) throw noService(at.host, 'plain-secret');
    if (signIn?.kind === 'key' && signIn.as === 'query') url.searchParams.set(signIn.name, signIn.key);
    const host = bareHost(at);
    // A host that is an address by itself is never looked up.
    if (!isOpen && /^[\d.]+$|:/.test(host) && !isPublicAddress(host)) throw noService(at.host, 'private', host);
    return request(url.href, {
      dispatcher: isOpen ? this.agents.open : this.agents.guarded,
      method: options.method ?? 'GET',
      headers: {
        'user-agent': 'RootMap/0.1',
        accept: options.accept ?? '*/*',
        'accept-encoding': 'identity',
        ...options.headers,
        ...secretHeaders(signIn),
      },
      headersTimeout: limitMs,
      bodyTimeout: limitMs,
      ...(signal ? { signal } : {}),
    });
  }
}

/** A text without the key in the addresses that it holds, as servers say them back in their links; a key in a header stands in none. */
function withoutKey(text: string, signIn: SignIn | null): string {
  if (signIn?.kind !== 'key' || signIn.as !== 'query') return text;
  const { name, key } = signIn;
  let left = text;
  for (const form of new Set([key, encodeURIComponent(key), new URLSearchParams({ k: key }).toString().slice(2)]))
    for (const after of ['&amp;', '\\u0026', '&', '']) left = left.replaceAll(`${name}=${form}${after}`, '');
  return left;
}

/** What is kept of an answer must not hold the key: links lead on without it, and it is added again when they are asked. */
function withoutEcho(body: Buffer, headers: Readonly<Record<string, string>>, signIn: SignIn | null): Buffer {
  const isText = /json|xml|text/.test(headers['content-type'] ?? 'text');
  return isText && signIn?.kind === 'key' && signIn.as === 'query' ? Buffer.from(withoutKey(body.toString('utf8'), signIn), 'utf8') : body;
}

/** What is still to come is not wanted; that it breaks off then is no news. */
export function drop(body: Readable): void {
  body.on('error', () => undefined);
  body.destroy();
}

const hostOf = (address: string): string => {
  if (!URL.canParse(address)) throw noService(address.slice(0, 80), 'broken', 'that is no address');
  return new URL(address).host;
};

/** An address as it may be shown and kept. */
function told(url: URL): string {
  return withoutSecrets(url.href);
}

function secretHeaders(signIn: SignIn | null): Record<string, string> {
  if (signIn?.kind === 'password')
    return { authorization: `Basic ${Buffer.from(`${signIn.name}:${signIn.password}`, 'utf8').toString('base64')}` };
  return signIn?.kind === 'key' && signIn.as === 'header' ? { [signIn.name.toLowerCase()]: signIn.key } : {};
}

const headersOf = (answer: Dispatcher.ResponseData): Record<string, string> =>
  Object.fromEntries(Object.entries(answer.headers).map(([name, value]) => [name.toLowerCase(), oneOf(value)]));

async function refusalOf(answer: Dispatcher.ResponseData, at: URL, signIn: SignIn | null) {
  await answer.body.dump({ limit: 64 * 1024 }).catch(() => undefined); // what it says beside the number is not read
  const { statusCode } = answer;
  if (statusCode === 401) return noService(at.host, signIn ? 'wrong-sign-in' : 'sign-in');
  if (statusCode === 403) return noService(at.host, signIn ? 'forbidden' : 'sign-in');
  if (statusCode === 404 || statusCode === 410) return noService(at.host, 'gone');
  const error = noService(at.host, 'error', String(statusCode));
  return Object.assign(error, { retryAfter: oneOf(answer.headers['retry-after']) || undefined, date: oneOf(answer.headers['date']) });
}
