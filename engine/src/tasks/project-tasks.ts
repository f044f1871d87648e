import { isInOrder, type StoredForm } from '@rootmap/core';
import type { LinkAdvice, ProjectView } from '@rootmap/core/contract';
import type { PlannedChange, PlannedStep } from '../changes/change.js';
import { alsoWithin } from '../disk/bounds.js';
import { checkOriginals, type OriginalsOptions } from '../folders/originals.js';
import { adviseLink } from '../links/advise-link.js';
import { openPlace, realRoot } from '../places/places.js';
import { withObjects } from '../mend/seen-moves.js';
import { findVanished } from '../project/find-vanished.js';
import { readMaps } from '../project/read-maps.js';
import { planRemember } from '../project/remember.js';
import { planPaths, type PathsPlan } from '../project/store-paths.js';
import { layersLostAfter, type LayerLost } from '../rehearsal/layers-after.js';
import { helperFor } from '../survey/survey-helper.js';
import { anyScopeOf, asJson, indexOf, scopeOf, type TaskBase, type TaskContext, type TaskTable } from './task-base.js';
import { viewProject } from './view-project.js';
import { workerScript } from './worker-script.js';

/**
 * A project's view as JSON, UTF-8, and what the server itself needs of it. With ten thousand datasets, making objects of it
 * and JSON again would hold the event loop up for longer than anybody may.
 */
export interface ProjectText extends Pick<ProjectView, 'id' | 'title' | 'totals' | 'bytes'> {
  readonly json: Uint8Array;
  readonly datasets: number;
  readonly maps: number;
  /** Real paths of the linked folders that are there. */
  readonly linked: readonly string[];
}

function factsOf(view: ProjectView): Omit<ProjectText, 'json'> {
  const { id, title, totals, bytes } = view;
  const linked = view.links.flatMap((l) => (l.present && l.path ? [l.path] : []));
  return { id, title, totals, bytes, datasets: view.datasets.length, maps: view.maps.length, linked };
}
const textOf = (view: ProjectView): ProjectText => ({ json: asJson(view), ...factsOf(view) });

type ViewInput = TaskBase & { seen: Readonly<Record<string, number>> };

async function look(input: ViewInput, { dataFolder, progress }: TaskContext): Promise<ProjectView> {
  const helper = helperFor(input.root, workerScript());
  const index = await indexOf(dataFolder);
  const later = (save: () => void): void => void setImmediate(save);
  const onFolder = (item: string, done: number): void => progress({ done, of: 0, unit: 'files', item });
  const view = await viewProject(scopeOf(input, true), index, { onFolder, seen: input.seen, helper, later });
  const sound = view.maps
    .flatMap((m) => m.layers)
    .flatMap((l) => (l.state === 'sound' && l.reach !== 'service' && l.resolved !== null ? [{ path: l.resolved, table: l.table }] : []));
  later(() => index.noteSeen(withObjects(sound), Date.now()));
  return view;
}

/** A project as a whole: what is in it, how its layers store their paths, where it went. */
export const PROJECT_TASKS = {
  view: async (input: ViewInput, context: TaskContext): Promise<ProjectText> => textOf(await look(input, context)),
  /** The same without the text: how a project is that nobody has open. */
  glance: async (input: ViewInput, context: TaskContext): Promise<Omit<ProjectText, 'json'>> => factsOf(await look(input, context)),
  paths: (input: TaskBase & { store: StoredForm; map: string | null }): PathsPlan => {
    const scope = anyScopeOf(input);
    return planPaths(input.map === null ? scope : { ...scope, maps: scope.maps.filter((m) => m === input.map) }, input.store, input.who);
  },
  remember: (input: TaskBase): { change: PlannedChange | null; layers: number } => {
    const plan = planRemember(anyScopeOf(input), input.who);
    return { change: plan.change, layers: plan.layers.length };
  },
  left: (input: TaskBase): number =>
    readMaps(anyScopeOf(input))
      .maps.flatMap((m) => m.layers)
      .filter((l) => !isInOrder(l.judgement.state)).length,
  originals: (input: TaskBase & OriginalsOptions & { known: string | null }) => checkOriginals(scopeOf(input, true), input.known, input),
  'advise-link': (input: TaskBase & { folder: string }): LinkAdvice => adviseLink(scopeOf(input, true), input.folder),
  /** Layers that the steps of an undo would set adrift, in one of so many parts of the maps. */
  'undo-lost': (input: TaskBase & { steps: readonly PlannedStep[]; part: number; parts: number }): readonly LayerLost[] => {
    const scope = anyScopeOf(input);
    const at = (part: number): number => Math.ceil((part * scope.maps.length) / input.parts);
    return layersLostAfter({ ...scope, maps: scope.maps.slice(at(input.part), at(input.part + 1)) }, input.steps);
  },
  /** How many layers lead into a place and find there what they remember. */
  'remembered-in': (input: TaskBase & { place: string }): number =>
    alsoWithin(realRoot(input.places.map(openPlace).find((p) => p.name === input.place)!), () =>
      readMaps(anyScopeOf(input)).maps.flatMap((m) => m.layers),
    ).filter((l) => l.layer.fingerprint !== null && l.judgement.state === 'sound' && l.judgement.location?.place === input.place).length,
  'find-vanished': (input: TaskBase & { id: string; limit: string }): readonly string[] => findVanished(input.root, input.id, input.limit),
} satisfies TaskTable;
