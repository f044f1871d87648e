import { noService } from '../wire/wire-problem.js';
import type { Answer, AskOptions, Wire } from '../wire/wire.js';

/** Deeper than this nobody nests a document; `JSON.parse` itself would take any depth. */
export const JSON_ACCEPT = 'application/json, application/geo+json;q=0.9, */*;q=0.1';

/** What an answer holds as JSON. Throws `no-service`, `broken`, in words. */
export function jsonOf({ body, url, headers }: Answer): unknown {
  try {
    return JSON.parse(body.toString('utf8').replace(/^\uFEFF/, ''));
  } catch (error) {
    const isPage = /html/.test(headers['content-type'] ?? '') || /^\s*<(!doctype|html)/i.test(body.subarray(0, 200).toString('latin1'));
    throw noService(
      new URL(url).host,
      'broken',
      isPage ? 'a web page instead of data' : `no JSON (${(error as Error).message.slice(0, 80)})`,
    );
  }
}

export async function askJson(wire: Wire, address: string, options: AskOptions = {}): Promise<{ document: unknown; url: string }> {
  const answer = await wire.ask(address, { accept: JSON_ACCEPT, ...options });
  return { document: jsonOf(answer), url: answer.url };
}

/** Where a page leads on; throws when it leads to another server, which was not linked. */
export function onSameServer(next: string, service: string): string {
  if (new URL(next).host !== new URL(service).host)
    throw noService(new URL(service).host, 'broken', `its next page is on another server, ${new URL(next).host}`);
  return next;
}
