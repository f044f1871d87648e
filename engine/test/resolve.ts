import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

/**
 * A judge of its own, which takes nothing from the product: where does each layer of each map below a folder lead, and is
 * there a whole dataset? References are resolved by Node's own URL and path modules.
 */
export interface Led {
  readonly map: string;
  readonly title: string;
  readonly path: string;
  readonly isThere: boolean;
}

interface OwsContext {
  features: { properties: { title: string; offerings: { contents?: { href: string }[] }[] } }[];
}

export function ledFrom(root: string): Led[] {
  return mapsBelow(root).flatMap((map) =>
    (JSON.parse(readFileSync(map, 'utf8')) as OwsContext).features.flatMap((f) => {
      const href = f.properties.offerings[0]?.contents?.[0]?.href;
      if (href === undefined || /^https?:/.test(href)) return [];
      const path = href.startsWith('file:')
        ? fileURLToPath(href.replace(/#.*$/, ''))
        : resolve(dirname(map), decodeURIComponent(href.replace(/#.*$/, '')));
      const needed = path.endsWith('.shp') ? ['.shp', '.shx', '.dbf'].map((e) => path.slice(0, -4) + e) : [path];
      return [{ map, title: f.properties.title, path: path.replaceAll('\\', '/'), isThere: needed.every((p) => existsSync(p)) }];
    }),
  );
}

function mapsBelow(folder: string): string[] {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) return entry.name.startsWith('.') ? [] : mapsBelow(path);
    return entry.name.endsWith('.owc.json') ? [path] : [];
  });
}
