import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import {
  fileName,
  MAP_ENDING,
  must,
  parseMapFile,
  patchFingerprint,
  patchText,
  ProblemError,
  sameJson,
  setAt,
  writeDraft,
  writeSld,
  type Look,
  type MapDraft,
  type NewLayer,
  type ShapeKind,
} from '@rootmap/core';
import { basename, dirname, join, pathFrom } from '../disk/native-path.js';
import type { PlannedChange, PlannedWrite } from '../changes/change.js';
import { readFileSync } from '../disk/files.js';
import { refuseOtherSpelling } from '../disk/other-spelling.js';
import { knownFingerprint } from '../project/known-fingerprint.js';
import { surroundingsOf, judgeMap } from '../project/read-maps.js';
import { writeOf } from '../project/remember.js';
import { locationOf, type RootedScope } from '../project/scope.js';
import { findAnyDataset } from '../project/find-dataset.js';
import { layerData } from './layer-data.js';
import { newLayer } from './new-layer.js';
import { hashOfBytes, readMapDoc, type MapDoc } from './view-map-doc.js';

export interface SavePlan {
  /** Null: the file is as the draft has it. */
  readonly change: PlannedChange | null;
  readonly base: string;
  readonly remembered: number;
  /** From the root. */
  readonly path: string;
}
export interface SaveOrder {
  readonly path: string;
  /** Hash of the file that the draft was made from. */
  readonly base: string;
  readonly draft: MapDraft;
  /** Name of a new file beside it, without its ending, that is written instead; null: the file itself is. */
  readonly as: string | null;
}

/**
 * A map file as a draft has it, with the full fingerprint of every layer whose data is sound. Nothing is written. Throws
 * `changed-meanwhile` where somebody else saved the map since.
 * @param onLayer called with the title of the layer whose data is read
 */
/** Throws what a save is refused for before any of it is worked out: `changed-meanwhile`, `bad-name`, `exists`, `not-found`. */
export function refuseSave({ root }: RootedScope, { path, base, as }: Pick<SaveOrder, 'path' | 'base' | 'as'>): void {
  const file = join(root, path);
  if (!existsSync(file)) throw new ProblemError({ code: 'not-found', what: 'map', id: path });
  if (as !== null) newPathBeside(file, as);
  else if (hashOfBytes(readFileSync(file)) !== base) throw new ProblemError({ code: 'changed-meanwhile', path: file });
}

export async function planSaveMap(
  scope: RootedScope,
  { path, base, draft, as }: SaveOrder,
  dataFolder: string,
  who: string,
  onLayer: (title: string) => void = () => undefined,
): Promise<SavePlan> {
  const doc = await readMapDoc(scope, path);
  const { seen } = doc;
  const newPath = as === null ? null : newPathBeside(seen.path, as);
  if (newPath === null && hashOfBytes(seen.bytes) !== base) throw new ProblemError({ code: 'changed-meanwhile', path: seen.path });
  const form = draft.storedForm ?? scope.project?.storedForm ?? 'relative';
  const at = locationOf(seen.path, scope.places);
  const added = new Map<string, NewLayer>();
  const kinds = new Map(doc.seen.layers.map((l) => [l.layer.id, kindOfLayer(doc, l.layer.id)]));
  for (const l of draft.layers)
    if (l.source !== null && !seen.file.layers.some((o) => o.id === l.id)) {
      const found = findAnyDataset(scope, l.source);
      onLayer(l.title);
      added.set(l.id, newLayer(scope, found, at, form, l.id, knownFingerprint(found, dataFolder)));
      kinds.set(l.id, layerData(l.source, found.dataset).kind as ShapeKind);
    }
  const unknown = draft.layers.find((l) => !added.has(l.id) && !seen.file.layers.some((o) => o.id === l.id));
  if (unknown) throw new ProblemError({ code: 'not-found', what: 'layer', id: unknown.title });
  const styles = await styleTexts(draft, doc, kinds);
  const text = writeDraft(seen.file, draft, {
    before: doc.draft,
    styleText: (l) => styles.get(l.id) ?? null,
    added: (l) => added.get(l.id)!,
    updated: new Date().toISOString().replace(/\.\d+Z$/, 'Z'),
  });
  const { text: remembering, remembered } = withFingerprints(scope, doc, text, dataFolder, onLayer);
  if (newPath === null && remembering === seen.file.text) return { change: null, base, remembered, path };
  const step: PlannedWrite =
    newPath === null
      ? writeOf(seen, remembering)
      : { kind: 'write', path: newPath, before: null, after: Buffer.from(setAt(remembering, ['id'], `urn:uuid:${randomUUID()}`), 'utf8') };
  const title = `Save the map ${draft.title || path}${newPath === null ? '' : ` as ${basename(newPath)}`}`;
  const change: PlannedChange = { title, kind: 'save', root: scope.root, who, steps: [step] };
  return { change, base: hashOfBytes(step.after), remembered, path: pathFrom(scope.root, step.path) };
}

/** Throws `bad-name` and `exists`: nothing is written over. */
function newPathBeside(path: string, name: string): string {
  const target = join(dirname(path), fileName(name.trim(), MAP_ENDING));
  if (existsSync(target)) throw new ProblemError({ code: 'exists', path: target });
  refuseOtherSpelling(target);
  return target;
}

function kindOfLayer({ seen, looker }: MapDoc, id: string): ShapeKind {
  const j = seen.layers.find((l) => l.layer.id === id)!.judgement;
  const dataset = j.location && j.found ? looker.look(j.location, j.table).dataset : null;
  return dataset ? (layerData('', dataset).kind as ShapeKind) : 'mixed';
}

/** Styles of the layers whose look or label is another one now. */
async function styleTexts(draft: MapDraft, doc: MapDoc, kinds: ReadonlyMap<string, ShapeKind>): Promise<ReadonlyMap<string, string>> {
  const texts = new Map<string, string>();
  for (const l of draft.layers) {
    const before = doc.draft.layers.find((o) => o.id === l.id);
    const look: Look | null = l.look;
    if (look === null || (before && sameJson(before.look, look) && sameJson(before.label, l.label))) continue;
    texts.set(l.id, await writeSld(l.title, look, kinds.get(l.id) ?? 'mixed', l.label));
  }
  return texts;
}

/** Fingerprints in full, of what is sound and of what is new. */
function withFingerprints(
  scope: RootedScope,
  { seen, looker }: MapDoc,
  text: string,
  dataFolder: string,
  onLayer: (title: string) => void,
) {
  const file = must(parseMapFile(seen.path, text));
  const judged = judgeMap(seen.path, Buffer.from(text, 'utf8'), file, surroundingsOf(scope, looker));
  let remembered = 0;
  const patches = judged.layers.flatMap(({ layer, judgement: j }) => {
    if (j.state !== 'sound' || !j.location) return [];
    const { dataset, folder } = looker.look(j.location, j.table);
    if (!dataset || folder === null) return [];
    onLayer(layer.title);
    remembered++;
    return patchFingerprint(file, layer, knownFingerprint({ folder, dataset }, dataFolder));
  });
  return { text: patchText(text, patches), remembered };
}
