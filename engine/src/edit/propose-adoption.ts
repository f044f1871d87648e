import { placeInPlan, type GrownThing, type PlanFolder } from '@rootmap/core';
import type { AdoptView } from '@rootmap/core/contract';
import { thingsOf } from '../folders/view-folders.js';
import { confinementOf, type Scope } from '../project/scope.js';
import { surveyFolder } from '../survey/list-datasets.js';

/** Where each thing of a grown folder would go in a plan. Nothing moves before it is confirmed. */
export function proposeAdoption(scope: Scope, folders: readonly PlanFolder[]): AdoptView {
  const root = scope.root!;
  const { listing, datasets } = surveyFolder(root, confinementOf(root, scope.places));
  const kinds = new Map(datasets.map((d) => [d.group.path, d.kind]));
  const things = thingsOf(listing.files, () => 0).filter((t) => t.kind !== 'left-behind');
  const grown = things.map((t): GrownThing => {
    const kind = t.kind === 'map' ? 'map' : (kinds.get(t.path) ?? 'document');
    const format = t.kind === 'map' ? 'map' : (datasets.find((d) => d.group.path === t.path)?.group.format ?? 'document');
    return { path: t.path, kind, format, isRaster: kind === 'raster', usedBy: t.usedBy };
  });
  const sizes = new Map(things.map((t) => [t.path, t]));
  return {
    proposals: placeInPlan(grown, { folders }).map((p) => ({
      path: p.path,
      folder: p.folder,
      why: p.why,
      format: sizes.get(p.path)!.format,
      bytes: sizes.get(p.path)!.bytes,
    })),
  };
}
