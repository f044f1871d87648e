import {
  parseReference,
  patchReference,
  patchText,
  placeNamed,
  resolveIn,
  storeReference,
  type MapReference,
  type StoredForm,
  type TextPatch,
} from '@rootmap/core';
import type { PlannedChange, PlannedWrite } from '../changes/change.js';
import { readMaps, type MapSeen } from './read-maps.js';
import { writeOf } from './remember.js';
import type { Scope } from './scope.js';

export interface PathsPlan {
  readonly changes: readonly {
    readonly map: string;
    readonly layer: string;
    readonly title: string;
    readonly before: string;
    readonly after: string;
  }[];
  readonly kept: readonly {
    readonly map: string;
    readonly layer: string;
    readonly title: string;
    readonly href: string | null;
    readonly why: string;
  }[];
  readonly damaged: readonly { readonly path: string; readonly message: string }[];
  readonly change: PlannedChange | null;
}

/** Plans to write every reference in the form asked for. Where it leads is not changed, whether or not data is there. */
export function planPaths(scope: Scope, form: StoredForm, who: string): PathsPlan {
  const seen = readMaps(scope);
  const changes: PathsPlan['changes'][number][] = [];
  const kept: PathsPlan['kept'][number][] = [];
  const steps: PlannedWrite[] = [];
  for (const map of seen.maps) {
    const patches: TextPatch[] = [];
    for (const { layer } of map.layers) {
      const row = { map: map.path, layer: layer.id, title: layer.title };
      if (!layer.reference) {
        kept.push({ ...row, href: null, why: 'the layer records no source' });
        continue;
      }
      [layer.reference, ...layer.others].forEach((reference, i) => {
        const now = rewrite(map, reference, form, scope);
        const href = reference.href;
        if ('why' in now) {
          if (i === 0) kept.push({ ...row, href, why: now.why });
        } else if (now.href !== href) {
          patches.push(...patchReference(reference, now.href));
          if (i === 0) changes.push({ ...row, before: href, after: now.href });
        }
      });
    }
    if (patches.length) steps.push(writeOf(map, patchText(map.file.text, patches)));
  }
  const title = `Store ${changes.length} references ${form === 'relative' ? 'relatively' : 'absolutely'}`;
  return {
    changes,
    kept,
    damaged: seen.damaged,
    change: steps.length ? { title, kind: 'paths', root: scope.root ?? scope.named, who, steps } : null,
  };
}

function rewrite(map: MapSeen, reference: MapReference, form: StoredForm, scope: Scope): { href: string } | { why: string } {
  const parsed = parseReference(reference.href);
  if (!parsed.ok) return { why: 'it is no address' };
  if (parsed.value.kind === 'service') return { why: 'it is a service' };
  const target = resolveIn(map.location, parsed.value, scope.places);
  if (target === 'above-root') return { why: 'it leads above its root' };
  if ('flavour' in target) return { why: `no place is known as ${target.root}` };
  const stored = storeReference(map.location, target, parsed.value.fragment, form, scope.places);
  if (stored.form !== form)
    return { why: `its data is on another place (${placeNamed(scope.places, target.place)?.name ?? target.place})` };
  return { href: stored.href };
}
