import { createHash } from 'node:crypto';
import {
  draftWithoutLooks,
  geometryKind,
  locateHere,
  parseMapFile,
  writeDraft,
  writeMapFile,
  writeSld,
  type NewLayer,
  type NewMap,
  type NewService,
} from '@rootmap/core';
import { relative, fullFingerprint, Looker, openPlace, toAddress, wholeDisks, dirname } from '@rootmap/engine';
import { LOOKS, SMALLEST_SCALES } from './looks.js';
import { put } from './write-data.js';

/** A layer as the scenario tells it; `data` is where its data stands now, `href` what the map records. */
interface DrawnLayer {
  readonly title: string;
  readonly data: string;
  readonly table?: string;
  readonly href?: string;
  readonly folder?: string;
  readonly label?: unknown;
  readonly filter?: string;
  readonly link?: { readonly name: string; readonly path: string };
}
export interface DrawnMap {
  readonly file: string;
  readonly title: string;
  readonly summary: string;
  readonly storedForm?: 'relative' | 'absolute';
  readonly layers: readonly (DrawnLayer | Omit<NewService, 'id'>)[];
  readonly when: string;
}

const idOf = (text: string): string => {
  const h = createHash('sha256').update(text).digest('hex');
  return `${h.slice(0, 8)}-${h.slice(8, 12)}-4${h.slice(13, 16)}-8${h.slice(17, 20)}-${h.slice(20, 32)}`;
};

/** Writes a map file whose layers remember their data, as a map saved in the app does. */
export async function drawMap(map: DrawnMap): Promise<void> {
  const places = wholeDisks([map.file]).map(openPlace);
  const looker = new Looker(places);
  const layers = map.layers.map((layer): NewLayer | NewService => {
    const id = idOf(`${map.title}/${layer.title}`);
    if (!('data' in layer)) return { ...layer, id };
    const { dataset, folder } = looker.look(locateHere(toAddress(layer.data), places)!, layer.table ?? null);
    if (!dataset || folder === null) throw new Error(`the demo has no ${layer.data}`);
    const fragment = layer.table === undefined ? '' : `#${layer.table}`;
    return {
      id,
      title: layer.title,
      format: dataset.group.format,
      href: layer.href ?? relative(dirname(map.file), layer.data) + fragment,
      fingerprint: fullFingerprint(folder, dataset),
      ...(layer.folder ? { folder: layer.folder } : {}),
      ...(layer.label ? { label: layer.label } : {}),
      ...(layer.filter ? { filter: layer.filter } : {}),
      ...(layer.link ? { link: layer.link } : {}),
    };
  });
  const content: NewMap = {
    id: idOf(map.title),
    title: map.title,
    summary: map.summary,
    updated: map.when,
    crs: 'EPSG:32624',
    storedForm: map.storedForm ?? 'relative',
    layers,
  };
  put(map.file, await dressed(map, writeMapFile(content)), map.when);
}

/** The map with the looks that its layers have, written as a save of the app writes them. */
async function dressed({ file, when }: DrawnMap, text: string): Promise<string> {
  const parsed = parseMapFile(file, text);
  if (!parsed.ok) throw new Error(`the demo has written no map at ${file}`);
  const before = draftWithoutLooks(parsed.value);
  const layers = before.layers.map((layer) => ({
    ...layer,
    look: LOOKS[layer.title] ?? null,
    maxScale: SMALLEST_SCALES[layer.title] ?? null,
  }));
  const styles = new Map<string, string>();
  for (const [i, { id, title, look, label }] of layers.entries()) {
    const kind = geometryKind(parsed.value.layers[i]!.fingerprint?.geometryType ?? null);
    if (look) styles.set(id, await writeSld(title, look, kind === 'point' || kind === 'line' || kind === 'area' ? kind : 'mixed', label));
  }
  return writeDraft(
    parsed.value,
    { ...before, layers },
    {
      before,
      styleText: ({ id }) => styles.get(id) ?? null,
      added: ({ title }) => {
        throw new Error(`${title} is no layer of ${file}`);
      },
      updated: when,
    },
  );
}
