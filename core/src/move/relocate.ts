import { foldName, normalName } from '../address/address.js';
import { placeNamed, type Location, type Place } from '../address/place.js';
import { textOf } from '../json/json-tree.js';
import type { TextPatch } from '../json/patch-text.js';
import { inlineStyles } from '../map/map-draft.js';
import type { MapFile } from '../map/map-file.js';
import { patchLink, patchReference } from '../map/patch-map.js';
import { rewrite, type Moves } from './relocate-reference.js';
import { rewriteStyle } from './relocate-style.js';

/** Something goes from one location to another, with all that is below it. */
export interface Relocation {
  readonly from: Location;
  readonly to: Location;
}

/**
 * Relocations that are looked up for many locations. They are carried out from the deepest up, so that a file and the folder
 * it is in can both get new names: `to` of the file is told with the folder's old name.
 */
export class Relocations implements Moves {
  private readonly byPrefix = new Map<string, Relocation>();
  private readonly depths: readonly number[];
  /** Last names of what moves, folded, by depth: most locations are told from them alone. */
  private readonly names = new Map<number, Set<string>>();

  constructor(
    all: readonly Relocation[],
    private readonly places: readonly Place[],
  ) {
    for (const r of all) {
      this.byPrefix.set(this.key(r.from.place, r.from.segments), r);
      const depth = r.from.segments.length;
      const names = this.names.get(depth) ?? new Set();
      this.names.set(depth, names.add(foldName(r.from.segments[depth - 1] ?? '')));
    }
    this.depths = [...this.names.keys()].sort((a, b) => b - a);
  }

  private key(place: string, segments: readonly string[]): string {
    const fold = placeNamed(this.places, place)?.ignoresCase ? foldName : normalName;
    return `${place}\n${segments.map(fold).join('/')}`;
  }

  /** Where a location is afterwards; the same object where nothing moves it. */
  of(location: Location): Location {
    let now = location;
    for (const depth of this.depths) {
      if (depth > now.segments.length || !this.names.get(depth)!.has(foldName(now.segments[depth - 1] ?? ''))) continue;
      const r = this.byPrefix.get(this.key(now.place, now.segments.slice(0, depth)));
      if (r) now = { place: r.to.place, segments: [...r.to.segments, ...now.segments.slice(depth)] };
    }
    return now;
  }
}

interface RewrittenReference {
  readonly layer: string;
  readonly title: string;
  readonly before: string;
  readonly after: string;
}

export interface RewrittenMap {
  readonly patches: readonly TextPatch[];
  readonly references: readonly RewrittenReference[];
}

/** A linked folder as evidence of layers: where it is before and after. */
export interface NamedFolder {
  readonly name: string;
  readonly before: Location;
  readonly after: Location;
}

/**
 * What a move changes in one map: every reference that reaches what moves, and every relative reference of a map that moves
 * itself. Each keeps its stored form where it can. A reference that reaches its data as it is written keeps its bytes.
 * @param actual the location on disk that a reference reaches, where spelling or symbolic links make it another one
 */
export function rewriteMap(
  map: { readonly location: Location; readonly file: MapFile },
  moves: Moves,
  places: readonly Place[],
  actual: (location: Location) => Location,
  links: readonly NamedFolder[] = [],
): RewrittenMap {
  const patches: TextPatch[] = [];
  const references: RewrittenReference[] = [];
  const mapAfter = moves.of(map.location);
  for (const layer of map.file.layers) {
    for (const reference of layer.reference ? [layer.reference, ...layer.others] : layer.others) {
      const after = rewrite(map.location, mapAfter, reference, moves, places, actual);
      if (after === null) continue;
      patches.push(...patchReference(reference, after.href));
      references.push({ layer: layer.id, title: layer.title, before: reference.href, after: after.href });
      if (reference === layer.reference && layer.link) patches.push(...patchLink(layer, relink(after.target, layer.link, links, places)));
    }
  }
  for (const layer of map.file.layers)
    for (const node of inlineStyles(layer)) {
      const style = rewriteStyle(textOf(node)!, map.location, moves, places, actual);
      if (style === null) continue;
      patches.push({ start: node.start, end: node.end, text: JSON.stringify(style.text) });
      references.push(...style.references.map((r) => ({ layer: layer.id, title: `a picture of ${layer.title}`, ...r })));
    }
  const { working } = map.file;
  const workingAfter = working && rewrite(map.location, mapAfter, working, moves, places, actual);
  if (working && workingAfter) {
    patches.push(...patchReference(working, workingAfter.href));
    references.push({ layer: '', title: 'the geodatabase that it works in', before: working.href, after: workingAfter.href });
  }
  return { patches, references };
}

/** `rootmap.link` after the move: through the same link where the data is still below it, else none. */
function relink(
  target: Location,
  link: { readonly name: string; readonly path: string },
  links: readonly NamedFolder[],
  places: readonly Place[],
): { name: string; path: string } | null {
  const folder = links.find((l) => l.name === link.name)?.after;
  if (!folder || folder.place !== target.place || !placeNamed(places, folder.place)) return link;
  const isBelow = folder.segments.every((s, i) => normalName(s) === normalName(target.segments[i] ?? ''));
  return isBelow ? { name: link.name, path: target.segments.slice(folder.segments.length).join('/') } : null;
}
