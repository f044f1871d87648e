import { placeInPlan, splitName, type GrownThing, type PlaceProposal, type PlanFolder } from '@rootmap/core';
import type { AdoptView } from '@rootmap/core/contract';
import { basename, dirname, join } from '../disk/native-path.js';
import { thingsOf } from '../folders/view-folders.js';
import { RECORDS } from '../move/records.js';
import { confinementOf, type RootedScope } from '../project/scope.js';
import { surveyFolder } from '../survey/list-datasets.js';

/** Where each thing of a grown folder would go in a plan. Nothing moves before it is confirmed. */
export function proposeAdoption(scope: RootedScope, folders: readonly PlanFolder[]): AdoptView {
  const root = scope.root;
  const { listing, datasets } = surveyFolder(root, confinementOf(root, scope.places));
  const kinds = new Map(datasets.map((d) => [d.group.path, d.kind]));
  const things = thingsOf(listing.files, () => 0).filter((t) => basename(t.path) !== RECORDS);
  const formats = new Map(datasets.map((d) => [d.group.path, d.group.format]));
  const grown = things
    .filter((t) => t.kind !== 'left-behind')
    .map((t): GrownThing => {
      const kind = t.kind === 'map' ? 'map' : (kinds.get(t.path) ?? 'document');
      const format = t.kind === 'map' ? 'map' : (formats.get(t.path) ?? 'document');
      return { path: t.path, kind, format, isRaster: kind === 'raster', usedBy: t.usedBy };
    });
  const placed = new Map(placeInPlan(grown, { folders }).map((p) => [p.path, p]));
  return {
    proposals: things.map((t) => {
      const { folder, why } = placed.get(t.path) ?? besideNamesake(t.path, [...placed.values()]);
      return { path: t.path, folder, why, format: t.format, bytes: t.bytes };
    }),
  };
}

/** A companion whose main file is gone goes where its namesake goes, so that neither is lost from sight. */
function besideNamesake(path: string, placed: readonly PlaceProposal[]): Pick<PlaceProposal, 'folder' | 'why'> {
  const key = (p: string): string => join(dirname(p), splitName(basename(p)).stem.toLowerCase());
  const namesake = placed.find((p) => key(p.path) === key(path));
  return namesake
    ? { folder: namesake.folder, why: `its main file is gone; it stands beside ${basename(namesake.path)}` }
    : { folder: null, why: 'its main file is gone, and nothing says what it belongs to' };
}
