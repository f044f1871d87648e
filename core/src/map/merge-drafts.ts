import type { DraftLayer, MapDraft, NamedView } from './map-draft.js';
import { sameJson } from './patch-draft.js';

const HEAD = ['title', 'summary', 'crs', 'storedForm'] as const;
type Head = (typeof HEAD)[number];

/** Something of a map that two people changed, each in another way. Null: it was taken away. */
export type DraftConflict =
  | {
      readonly kind: 'layer';
      readonly id: string;
      readonly title: string;
      readonly mine: DraftLayer | null;
      readonly theirs: DraftLayer | null;
    }
  | { readonly kind: 'fact'; readonly id: Head; readonly title: Head; readonly mine: string | null; readonly theirs: string | null }
  | {
      readonly kind: 'order';
      readonly id: 'order';
      readonly title: 'order';
      readonly mine: readonly string[];
      readonly theirs: readonly string[];
    };

export interface MergedDraft {
  readonly draft: MapDraft;
  readonly conflicts: readonly DraftConflict[];
}

const byId = (draft: MapDraft): Map<string, DraftLayer> => new Map(draft.layers.map((l) => [l.id, l]));
const idsOf = (draft: MapDraft): string[] => draft.layers.map((l) => l.id);
const among = (ids: readonly string[], known: { has(id: string): boolean }): string[] => ids.filter((id) => known.has(id));

/**
 * Two drafts of a map that were made from one, put together: layer by layer and fact by fact, each as whoever changed it has it.
 * What both changed is told, and is as `mine` has it unless it is among `taken`. Where it opens stays as mine has it,
 * and named views are put together by their names.
 *
 * @param base what both began from
 * @param taken ids of conflicts in which theirs is taken
 */
export function mergeDrafts(base: MapDraft, mine: MapDraft, theirs: MapDraft, taken: ReadonlySet<string> = new Set()): MergedDraft {
  const conflicts: DraftConflict[] = [];
  const head = Object.fromEntries(
    HEAD.map((id) => {
      if (sameJson(mine[id], base[id])) return [id, theirs[id]];
      if (!sameJson(theirs[id], base[id]) && !sameJson(mine[id], theirs[id])) {
        conflicts.push({ kind: 'fact', id, title: id, mine: mine[id], theirs: theirs[id] });
        if (taken.has(id)) return [id, theirs[id]];
      }
      return [id, mine[id]];
    }),
  ) as Pick<MapDraft, Head>;
  const [before, own, other] = [byId(base), byId(mine), byId(theirs)];
  const merged = new Map<string, DraftLayer>();
  for (const id of new Set([...own.keys(), ...other.keys()])) {
    const [b, m, t] = [before.get(id) ?? null, own.get(id) ?? null, other.get(id) ?? null];
    let layer = m;
    if (sameJson(m, b)) layer = t;
    else if (!sameJson(t, b) && !sameJson(m, t)) {
      conflicts.push({ kind: 'layer', id, title: (m ?? t ?? b)!.title, mine: m, theirs: t });
      if (taken.has(id)) layer = t;
    }
    if (layer) merged.set(id, layer);
  }
  const order = mergeOrder(idsOf(base), idsOf(mine), idsOf(theirs));
  if (order.isConflict) conflicts.push({ kind: 'order', id: 'order', title: 'order', mine: idsOf(mine), theirs: idsOf(theirs) });
  const [first, second] = order.isTheirs || (order.isConflict && taken.has('order')) ? [theirs, mine] : [mine, theirs];
  const ids = inserted(among(idsOf(first), merged), among(idsOf(second), merged));
  return { draft: { ...mine, ...head, views: mergedViews(base, mine, theirs), layers: ids.map((id) => merged.get(id)!) }, conflicts };
}

/** Named views of both: what one took away is gone, and of two with one name that of mine stays. */
function mergedViews(base: MapDraft, mine: MapDraft, theirs: MapDraft): readonly NamedView[] {
  const at = (draft: MapDraft, name: string): NamedView | null => draft.views.find((v) => v.name === name) ?? null;
  const names = [...new Set([...mine.views, ...theirs.views].map((v) => v.name))];
  return names.flatMap((name) => {
    const [b, m, t] = [at(base, name), at(mine, name), at(theirs, name)];
    return (sameJson(m, b) ? t : m) ?? [];
  });
}

/** Whose order it is: that of whoever changed the order of what all three have. */
function mergeOrder(
  base: readonly string[],
  mine: readonly string[],
  theirs: readonly string[],
): { isTheirs: boolean; isConflict: boolean } {
  const [inMine, inTheirs, inBase] = [new Set(mine), new Set(theirs), new Set(base)];
  const all = { has: (id: string) => inMine.has(id) && inTheirs.has(id) && inBase.has(id) };
  const [b, m, t] = [among(base, all), among(mine, all), among(theirs, all)];
  const isMineKept = sameJson(m, b);
  return { isTheirs: isMineKept, isConflict: !isMineKept && !sameJson(t, b) && !sameJson(m, t) };
}

/** The first list with what only the second has, each after what it comes after there. */
function inserted(first: readonly string[], second: readonly string[]): string[] {
  const ids = [...first];
  for (const [i, id] of second.entries()) if (!ids.includes(id)) ids.splice(i === 0 ? 0 : ids.indexOf(second[i - 1]!) + 1, 0, id);
  return ids;
}
