import { statSync } from 'node:fs';
import {
  fontsOfStyle,
  parseReference,
  picturesOfStyle,
  placeNamed,
  readSld,
  resolveIn,
  styleOf,
  type Field,
  type Label,
  type Location,
  type Look,
  type MapLayer,
} from '@rootmap/core';
import type { StyleView } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { diskSentence } from '../disk/disk-problem.js';
import { readFileSync } from '../disk/files.js';
import { pathOf } from '../places/places.js';
import type { Scope } from './scope.js';

const LARGEST_STYLE_BYTES = 4 << 20;

const GENERIC_FONT = /^(sans-serif|serif|monospace)$/i;
const toldFont = (family: string): string => `Labels are drawn in the plain font, not in ${family}.`;

export interface LayerStyle {
  readonly look: Look | null;
  readonly label: Label | null;
  readonly view: StyleView;
}
const NONE: StyleView = { kind: 'none', href: null, state: null, losses: [], missing: [] };

/** How a layer is drawn, from its style in the map or in a file of its own. What cannot be read is told; the layer is drawn plainly then. */
export async function layerStyle(layer: MapLayer, map: Location, scope: Scope, fields: readonly Field[] | null): Promise<LayerStyle> {
  const style = styleOf(layer);
  if (style.kind === 'none') return { look: null, label: null, view: NONE };
  const at = style.kind === 'file' ? pathOfReference(style.href, map, scope) : null;
  const text = style.kind === 'inline' ? style.text : at === null ? null : readStyleFile(at.path);
  const base: StyleView = { ...NONE, kind: style.kind, href: style.kind === 'file' ? style.href : null };
  if (text === null) return { look: null, label: null, view: { ...base, state: 'adrift' } };
  const read = await readSld(text, fields);
  if (!read) return { look: null, label: null, view: { ...base, state: 'unreadable' } };
  const from = at?.location ?? map;
  const missing = picturesOfStyle(text)
    .map((p) => p.href)
    .filter((href) => !/^(https?|data):/i.test(href) && !isThere(href, from, scope));
  const losses = [
    ...read.losses,
    ...fontsOfStyle(text)
      .filter((f) => !GENERIC_FONT.test(f))
      .map(toldFont),
  ];
  return { look: read.look, label: read.label, view: { ...base, state: 'sound', losses, missing } };
}

/** Where a reference leads on this machine, from a file; null: nowhere that can be reached. */
export function pathOfReference(href: string, from: Location, scope: Pick<Scope, 'places'>): { path: string; location: Location } | null {
  const parsed = parseReference(href);
  if (!parsed.ok || parsed.value.kind === 'service') return null;
  const location = resolveIn(from, parsed.value, scope.places);
  if (location === 'above-root' || 'flavour' in location) return null;
  const place = placeNamed(scope.places, location.place);
  return place?.present ? { path: join(pathOf(place), ...location.segments), location } : null;
}

function isThere(href: string, from: Location, scope: Scope): boolean {
  const at = pathOfReference(href, from, scope);
  return at !== null && statSync(at.path, { throwIfNoEntry: false })?.isFile() === true;
}

/** The text of a style file; null where none stands there, one that may not be opened, or something too large to be one. */
export function readStyleFile(path: string): string | null {
  try {
    const stat = statSync(path, { throwIfNoEntry: false });
    return stat?.isFile() && stat.size <= LARGEST_STYLE_BYTES ? readFileSync(path, 'utf8') : null;
  } catch (error) {
    if (diskSentence(error) === null) throw error;
    return null;
  }
}
