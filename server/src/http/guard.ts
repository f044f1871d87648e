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
  const allowed = new Set(isLoopback(config.host) ? ['127.0.0.1', 'localhost', '::1'] : [config.host.toLowerCase(), ...config.names]);
  return (request: Request, response: Response, next: NextFunction): void => {
    const host = request.headers.host ?? '';
    if (!allowed.has(hostOf(host)))
      return refuse(response, 403, 'host', 'This address is not one of this server. Open it by the address it printed at its start.');
    const origin = request.headers.origin;
    if (origin !== undefined && origin !== `http://${host}` && origin !== `https://${host}`)
      return refuse(response, 403, 'origin', 'The request comes from another page. Use the app itself.');
    if (request.headers['sec-fetch-site'] === 'cross-site' && request.method !== 'GET')
      return refuse(response, 403, 'origin', 'The request comes from another page. Use the app itself.');
    if (config.accessKey !== null && !hasKey(request, response, config.accessKey))
      return refuse(response, 401, 'key', 'This server asks for its access key. Open its address with ?key= and the key once.');
    next();
  };
}

function hasKey(request: Request, response: Response, key: string): boolean {
  const bearer = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1];
  const cookie = new RegExp(`(?:^|; )${COOKIE}=([^;]+)`).exec(request.headers.cookie ?? '')?.[1];
  const asked = typeof request.query['key'] === 'string' ? request.query['key'] : undefined;
  if (asked !== undefined && same(asked, key)) {
    response.cookie(COOKIE, key, { httpOnly: true, sameSite: 'strict' });
    return true;
  }
  return [bearer, cookie && decodeURIComponent(cookie)].some((given) => given !== undefined && same(given, key));
}

function same(a: string, b: string): boolean {
  const x = Buffer.from(a);
  const y = Buffer.from(b);
  return x.length === y.length && timingSafeEqual(x, y);
}

/** Whose name stands in the journal. */
export const whoOf = (request: Request): string =>
  (request.headers['x-rootmap-who'] as string | undefined)?.slice(0, 80) ?? userInfo().username;
