import { joined } from '@rootmap/core';
import type { PackPreview } from '@rootmap/core/contract';
import { isAbsolute } from '../disk/native-path.js';
import { carriersFor } from '../bundle/carriers.js';
import { planPack, suggestedBundle, type PackPlan } from '../bundle/pack.js';
import { lookAtArrival } from '../bundle/receive.js';
import { openPlace } from '../places/places.js';
import { locationOf, type RootedScope } from '../project/scope.js';
import { shownPath } from '../project/shown-path.js';
import { scopeOf, type TaskBase, type TaskTable } from './task-base.js';

function previewOf(plan: PackPlan, scope: RootedScope): PackPreview {
  const suggested = locationOf(suggestedBundle(scope), scope.places);
  return {
    suggested: { place: suggested.place, path: joined(suggested.segments) },
    files: plan.payload.length,
    bytes: plan.bytes,
    leftOut: plan.leftOut.map((l) => ({ ...l, path: isAbsolute(l.path) ? shownPath(l.path, scope) : l.path })),
    findings: plan.findings,
    layers: plan.layers.map((l) => ({ map: l.map, title: l.title, state: l.state, detail: l.detail ?? null })),
    rewritten: plan.rewritten.size,
    carriers: carriersFor(plan.bytes),
  };
}

/** Bundles: what would go into one, and how it stands where it arrived. */
export const BUNDLE_TASKS = {
  'plan-pack': (input: TaskBase & { out: string | null }): { plan: PackPlan; preview: PackPreview } => {
    const scope = scopeOf(input);
    const plan = planPack(scope, input.out ?? undefined);
    return { plan, preview: previewOf(plan, scope) };
  },
  arrival: (input: TaskBase) => lookAtArrival(input.root, input.places.map(openPlace)),
} satisfies TaskTable;
