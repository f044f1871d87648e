import { patchText, Relocations, rewriteMap, type Location, type Moves, type Place } from '@rootmap/core';
import type { PlannedChange, PlannedWrite } from '../changes/change.js';
import { locationOf, type RootedScope } from '../project/scope.js';
import { knownProjects } from './known-maps.js';
import { linksOf, writeMap, type ReferenceRow } from './plan-move.js';
import { relocateProject } from './relocate-project.js';

/** Things that one change moved, real and absolute. */
export type MovedPairs = readonly { readonly from: string; readonly to: string }[];

export interface FollowPlan {
  readonly references: readonly ReferenceRow[];
  readonly change: PlannedChange | null;
}

/**
 * A project that was away while data moved: its references and links follow now. The data itself has moved already.
 * @param missed what each change moved, the oldest first
 */
export function planFollow(scope: RootedScope, missed: readonly MovedPairs[], who: string): FollowPlan {
  const [project] = knownProjects([scope.root], scope.places);
  const moves = oneAfterTheOther(missed, scope.places);
  const rewritten = project!.maps.map((map) => ({
    map,
    ...rewriteMap(map, moves, scope.places, (location) => location, linksOf(project!, moves, scope.places)),
  }));
  const touched = rewritten.filter((r) => r.patches.length > 0);
  const steps: PlannedWrite[] = [
    ...touched.map((r) => writeMap(r.map, patchText(r.map.file.text, r.patches))),
    ...relocateProject(project!, moves, scope.places),
  ];
  const references = touched.flatMap(({ map, references }) => references.map((r) => ({ map: map.path, ...r })));
  const title = `Follow data that moved: ${references.length} ${references.length === 1 ? 'reference' : 'references'}`;
  return { references, change: steps.length ? { title, kind: 'mend', root: scope.root, who, steps } : null };
}

function oneAfterTheOther(missed: readonly MovedPairs[], places: readonly Place[]): Moves {
  const all = missed.map(
    (pairs) =>
      new Relocations(
        pairs.map(({ from, to }) => ({ from: locationOf(from, places), to: locationOf(to, places) })),
        places,
      ),
  );
  return { of: (location: Location) => all.reduce((now, moves) => moves.of(now), location) };
}
