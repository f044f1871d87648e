import { pathToFileURL } from 'node:url';
import { join } from 'node:path';
import { tableName, type Case, type Damage, type Item, type World } from './world.js';

/** The layers whose data is not where they say, and where it is. */
export function truthOf(w: World): Case[] {
  const stick = `${join(w.folder, 'stick')}/`;
  const inReach = ({ path }: Item): string | null => (w.isStickAway && path?.startsWith(stick) ? null : path);
  const standing = w.items.filter((i) => inReach(i) !== null);
  const says = new Map<string, number>();
  const called = new Map<string, number>();
  const count = (map: Map<string, number>, key: string): void => void map.set(key, (map.get(key) ?? 0) + 1);
  const saying = (i: Item, isAnyFormat: boolean): string => (isAnyFormat ? 'any' : i.format) + JSON.stringify(i.content);
  for (const i of standing) {
    count(says, saying(i, true));
    count(says, saying(i, false));
    count(called, plainName(i.path!));
  }
  for (const ruin of w.ruins) count(called, plainName(ruin));
  return w.maps.flatMap((map) =>
    map.layers.flatMap(({ id, item, href, resolved }): Case[] => {
      const there = href === null ? null : reached(w, map.path, href);
      if (there !== null && there === item.path) return [];
      const damage: Damage =
        href === null ? 'no recorded source' : (item.damage ?? (map.isMoved && !href.startsWith('file:') ? 'map moved' : 'root moved'));
      // Of what is gone, one equal copy that is left is as good as a move: nothing could tell them apart.
      const equal = standing.filter((i) => i.format === item.format && JSON.stringify(i.content) === JSON.stringify(item.content));
      const truth = inReach(item) ?? (equal.length === 1 ? equal[0]!.path : equal.length === 0 ? (item.archive ?? null) : null);
      const isPacked = truth !== null && truth === item.archive;
      const others = truth === null ? 0 : (called.get(isPacked ? plainName(resolved) : plainName(truth)) ?? 0);
      return [
        {
          map: map.path,
          layer: id,
          damage,
          truth,
          twins: standing.flatMap((i) => (i.path !== truth && saying(i, true) === saying(item, true) ? [i.path!] : [])),
          // A copy in another format is told apart by its format, unless the data changed its own.
          // A path that is right but for case and normalisation tells by itself.
          canBeTold: isPacked
            ? href !== null && others === 0
            : truth !== null && (says.get(saying(item, damage === 'put into a geodatabase')) === 1 || sameName(truth, there)),
          isSameObject: truth !== null && truth === item.path && there === resolved && KEEPS_OBJECT.has(damage),
          isNamed: truth !== null && href !== null && (isPacked ? others === 0 : plainName(resolved) === plainName(truth) && others === 1),
        },
      ];
    }),
  );
}

/** Renames and moves: of a file, a geodatabase, or a folder above. */
const KEEPS_OBJECT: ReadonlySet<Damage> = new Set([
  'folder moved',
  'folder renamed',
  'split over folders',
  'dataset renamed',
  'copy suffix',
  'renamed and moved',
  'spelling',
  'accents composed otherwise',
  'geodatabase moved',
  'other data of the same name',
  'root moved',
  'link elsewhere',
] as const);

/** What an address leads to, worked out with Node alone. */
function reached(w: World, map: string, href: string): string | null {
  const [path, table] = href.split('#') as [string, string | undefined];
  const behind = table === undefined ? '' : `#${decodeURIComponent(table)}`;
  if (!path.startsWith('file:')) return new URL(path, pathToFileURL(map)).pathname.split('/').map(decodeURIComponent).join('/') + behind;
  const drives: Record<string, string> = { 'file:///D:': 'desk', [`file:///${w.stickDrive}`]: 'stick', 'file://harbour/gis': 'share' };
  const drive = Object.keys(drives).find((d) => path.startsWith(`${d}/`));
  return drive === undefined ? null : join(w.folder, drives[drive]!, decodeURIComponent(path.slice(drive.length + 1))) + behind;
}

const sameName = (a: string, b: string | null): boolean => a.normalize('NFC').toLowerCase() === b?.normalize('NFC').toLowerCase();
const plainName = (path: string): string => {
  const end = path.includes('#') ? path.slice(path.lastIndexOf('#') + 1) : path.slice(path.lastIndexOf('/') + 1).replace(/\.\w+$/, '');
  return tableName(end).replaceAll('_', '');
};
