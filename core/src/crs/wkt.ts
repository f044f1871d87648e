import { parseProjJson } from './projjson.js';
import type { WktNode } from './wkt-node.js';

const LONGEST = 64 * 1024;

/** Null where the text is no WKT. One in JSON gives the tree that its newer WKT has. */
export function parseWkt(text: string): WktNode | null {
  if (text.length > LONGEST) return null;
  if (text.startsWith('{')) return parseProjJson(text);
  const tokens = text.match(/"(?:[^"]|"")*"|[A-Za-z_][A-Za-z0-9_]*|[-+]?[0-9.]+(?:[eE][-+]?[0-9]+)?|[[\](),]/g);
  if (!tokens) return null;
  let at = 0;
  const node = (depth: number): WktNode | null => {
    const keyword = tokens[at++];
    if (!keyword || !/^[A-Za-z_]/.test(keyword) || depth > 20) return null;
    const values: (string | number)[] = [];
    const children: WktNode[] = [];
    if (tokens[at] !== '[' && tokens[at] !== '(') return { keyword: keyword.toUpperCase(), values, children };
    at++;
    for (;;) {
      const token = tokens[at];
      if (token === undefined) return null;
      if (token === ']' || token === ')') {
        at++;
        return { keyword: keyword.toUpperCase(), values, children };
      }
      if (token === ',') at++;
      else if (token.startsWith('"')) {
        values.push(token.slice(1, -1).replaceAll('""', '"'));
        at++;
      } else if (/^[-+.0-9]/.test(token)) {
        values.push(Number(token));
        at++;
      } else {
        const child = node(depth + 1);
        if (!child) return null;
        children.push(child);
      }
    }
  };
  return node(0);
}

export const child = (node: WktNode | undefined, ...keywords: string[]): WktNode | undefined =>
  node?.children.find((c) => keywords.includes(c.keyword));

export const wktName = (node: WktNode | undefined): string | null => {
  const first = node?.values[0];
  return typeof first === 'string' ? first : null;
};

/** The code that the text itself claims: its outermost AUTHORITY or ID of the EPSG. */
export function authorityCode(node: WktNode): string | null {
  const own = child(node, 'AUTHORITY', 'ID');
  if (!own || String(own.values[0]).toUpperCase() !== 'EPSG') return null;
  return own.values[1] === undefined ? null : `EPSG:${own.values[1]}`;
}
