import { timingSafeEqual } from 'node:crypto';
import { userInfo } from 'node:os';
import type { NextFunction, Request, Response } from 'express';
import type { ProblemDetails } from '@rootmap/core/contract';
import { isLoopback, type Config } from '../config.js';

const refuse = (response: Response, status: number, code: string, detail: string): void => {
  const body: ProblemDetails = { type: `urn:rootmap:problem:${code}`, title: 'Not open to this server', status, detail, code };
  response.status(status).type('application/problem+json').send(JSON.stringify(body));
};

const hostOf = (value: string): string =>
  value
    .replace(/:\d+$/, '')
    .replace(/^\[|\]$/g, '')
    .toLowerCase();
const COOKIE = 'rootmap_key';

/**
 * On every request: the Host header must name this server (against DNS rebinding), an Origin must be this server's own
 * (against other pages), and beyond loopback the access key must be there.
 */
export function guard(config: Config) {
  const own = hostOf(config.host.includes(':') ? `[${config.host}]` : config.host);
  const allowed = new Set([own, ...(isLoopback(config.host) ? ['127.0.0.1', 'localhost', '::1'] : config.names)]);
  return (request: Request, response: Response, next: NextFunction): void => {
    const host = request.headers.host ?? '';
    if (!allowed.has(hostOf(host)))
      return refuse(response, 403, 'host', 'This address is not one of this server. Open it by the address it printed at its start.');
    const origin = request.headers.origin;
    if (origin !== undefined && origin !== `http://${host}` && origin !== `https://${host}`)
      return refuse(response, 403, 'origin', 'The request comes from another page. Use the app itself.');
    // Links from other pages open the app itself, and nothing of the interface: `navigate` is a person's click.
    if (isFromElsewhere(request)) return refuse(response, 403, 'origin', 'The request comes from another page. Use the app itself.');
    if (config.accessKey !== null && !hasKey(request, response, config.accessKey))
      return refuse(response, 401, 'key', 'This server asks for its access key. Open its address with ?key= and the key once.');
    next();
  };
}

/** What the browser says of where a request comes from (Fetch Metadata, W3C); other programs say nothing. */
function isFromElsewhere(request: Request): boolean {
  const site = request.headers['sec-fetch-site'];
  if (site !== 'cross-site' && site !== 'same-site') return false;
  return request.method !== 'GET' || request.path.startsWith('/api/') || request.headers['sec-fetch-mode'] !== 'navigate';
}

function hasKey(request: Request, response: Response, key: string): boolean {
  const bearer = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1];
  const cookie = new RegExp(`(?:^|; )${COOKIE}=([^;]+)`).exec(request.headers.cookie ?? '')?.[1];
  const asked = typeof request.query['key'] === 'string' ? request.query['key'] : undefined;
  if (asked !== undefined && same(asked, key)) {
    response.cookie(COOKIE, key, { httpOnly: true, sameSite: 'strict' });
    return true;
  }
  return [bearer, cookie && decoded(cookie)].some((given) => given !== undefined && same(given, key));
}

/** Percent-decoded; as it is where that cannot be done. */
function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text; // no key is written like this: it is compared, and refused
  }
}

function same(a: string, b: string): boolean {
  const x = Buffer.from(a);
  const y = Buffer.from(b);
  return x.length === y.length && timingSafeEqual(x, y);
}

/** Whose name stands in the journal. */
export const whoOf = (request: Request): string =>
  (request.headers['x-rootmap-who'] as string | undefined)?.slice(0, 80) ?? userInfo().username;
