import type { Fingerprint } from '../dataset/fingerprint.js';
import { formatOf, KIND } from '../dataset/formats.js';
import { differenceFrom, fieldFamily } from '../map/layer-state.js';
import { commonSuffix, matchNames, stemOf } from './names.js';
import type { BrokenLayer, Candidate, EvidenceKind, Target } from './types.js';

/** Points: hash 60, name 20, folders 12, content 30, format 3. Only their order matters. */
const HASH = 60;
const NAME = { same: 20, spelling: 14, suffix: 8, none: 0 } as const;
const A_FOLDER = 4;
const MOST_FOLDERS = 12;
const A_CONTENT_PART = 6;
const FORMAT = 3;
const LINK = 25;
/** Known to be other data, however alike. */
const EDITED = 15;

/** Equal hashes are proof only with at least one feature or pixel in them. */
const hasSubstance = (f: Fingerprint): boolean => f.raster !== null || f.count === null || f.count > 0;

/** How well a dataset fits a layer; null where something rules it out, or nothing speaks for it. */
export function scoreCandidate(layer: BrokenLayer, target: Target): Candidate | null {
  const scored = scoreAny(layer, target);
  return scored && scored.speaks ? scored.candidate : null;
}

/** Also where nothing in name and content speaks for it; null only where something rules it out. */
export function scoreAny(layer: BrokenLayer, target: Target): { readonly candidate: Candidate; readonly speaks: boolean } | null {
  if (target.damaged) return null;
  const found = target.fingerprint;
  const difference = differenceFrom(layer.fingerprint, found, layer.needs);
  if (difference || hasLostShapes(layer, found)) return null;
  const kinds = new Set<EvidenceKind>();
  const evidence: string[] = [];
  let score = 0;
  const name = nameScore(layer, target, kinds, evidence);
  score += name;
  const before = layer.fingerprint;
  if (before) {
    if (before.hash !== null && before.hash === found.hash && hasSubstance(found)) {
      kinds.add('hash');
      evidence.push('Same content, byte for byte (hash).');
      score += HASH;
    }
    if (before.hash !== null && found.hash !== null && before.format === found.format && before.hash !== found.hash) {
      evidence.push('Its content is not the remembered one (hash).');
      score -= EDITED;
    }
    score += contentScore(before, found, kinds, evidence);
    if (before.format === found.format) score += FORMAT;
    else evidence.push(`Was ${before.format}, is ${found.format} now.`);
  }
  const link = layer.throughLink;
  if (link && link.place === target.location.place && link.segments.join('/') === target.location.segments.join('/')) {
    kinds.add('link');
    evidence.push('Reached through the linked folder that the layer came by.');
    score += LINK;
  }
  return { candidate: { target, score, fit: score, standing: null, kinds, evidence }, speaks: kinds.size > 0 || name > 0 };
}

/** A layer that draws shapes cannot draw a bare table. */
function hasLostShapes({ fingerprint, recorded }: BrokenLayer, found: Fingerprint): boolean {
  if (KIND[found.format] !== 'table' || found.geometryType !== null) return false;
  const format = fingerprint?.format ?? formatOf(recorded?.segments.at(-1) ?? '');
  return fingerprint?.geometryType != null || (format !== null && KIND[format] !== 'table' && format !== 'geopackage');
}

function nameScore(layer: BrokenLayer, target: Target, kinds: Set<EvidenceKind>, evidence: string[]): number {
  const recorded = layer.recorded?.segments;
  const found = target.location.segments;
  const last = recorded?.[recorded.length - 1];
  if (!recorded || last === undefined) return titleScore(layer, target, evidence);
  const file = found[found.length - 1]!;
  const folders = Math.min(commonSuffix(recorded, found), 8);
  const path = folders === 0 ? '' : `, and the last ${folders === 1 ? 'folder' : `${folders} folders`} of its path too`;
  const byFolders = Math.min(MOST_FOLDERS, folders * A_FOLDER);
  if (layer.table === null && target.table === null) {
    const match = matchNames(last, file);
    if (match === 'same') {
      kinds.add('name');
      evidence.push(`Same name${path}.`);
    } else if (match !== 'none')
      evidence.push(match === 'suffix' ? `Nearly the same name: ${file}.` : `Same name in another spelling: ${file}.`);
    return match === 'none' ? 0 : NAME[match] + byFolders;
  }
  const was = layer.table === null ? last : `${layer.table}.x`;
  const match = matchNames(was, target.table === null ? file : `${target.table}.x`);
  if (match !== 'none') {
    // A name that is made to suit a table is the same name.
    const isSame =
      match === 'same' || (match === 'spelling' && (layer.table === null || target.table === null)) || stemOf(was) === target.table;
    if (isSame) kinds.add('name');
    const sameFile = layer.table !== null && target.table !== null && matchNames(last, file) === 'same';
    if (layer.table === null) evidence.push(`Table ${target.table} has its name.`);
    else if (target.table === null) evidence.push(`${file} has the name of the table.`);
    else if (isSame) evidence.push(sameFile ? `Same table, same geodatabase${path}.` : `Same table in another geodatabase: ${file}.`);
    else evidence.push(`A table of nearly the same name: ${target.table}.`);
    return NAME[isSame ? 'same' : match] + (sameFile ? A_FOLDER + byFolders : 0);
  }
  return 0;
}

/** A layer that records no source may be called like its data. */
function titleScore(layer: BrokenLayer, target: Target, evidence: string[]): number {
  const name = target.table ?? target.location.segments[target.location.segments.length - 1]!;
  if (layer.title === '' || matchNames(`${layer.title}.x`, target.table === null ? name : `${name}.x`) === 'none') return 0;
  evidence.push(`The layer is called like it: ${name}.`);
  return NAME.suffix;
}

/** In another format names are cut and types widened: `.dbf` has ten bytes for a name, a table 64-bit numbers. */
const sameFields = (a: Fields, b: Fields, isConverted: boolean): boolean =>
  a.length === b.length &&
  a.every(([n, t], i) => {
    const [name, type] = b[i]!;
    return isConverted ? cutName(n) === cutName(name) && fieldFamily(t) === fieldFamily(type) : n === name && t === type;
  });
type Fields = NonNullable<Fingerprint['fields']>;
const cutName = (name: string): string => name.toLowerCase().slice(0, 10);
const sameNumbers = (a: readonly number[], b: readonly number[]): boolean =>
  a.every((v, i) => Math.abs(v - b[i]!) <= 1e-9 * Math.max(1, Math.abs(v)));

/** Count, vertices, fields, extent and grid together are one kind, when all that both sides know agree. */
function contentScore(a: Fingerprint, b: Fingerprint, kinds: Set<EvidenceKind>, evidence: string[]): number {
  const same: string[] = [];
  const other: string[] = [];
  const note = (label: string, known: boolean, equal: () => boolean): void => {
    if (known) (equal() ? same : other).push(label);
  };
  note('number of records', a.count !== null && b.count !== null, () => a.count === b.count);
  note('vertices', a.vertices !== null && b.vertices !== null, () => a.vertices === b.vertices);
  note('fields', !!a.fields?.length && !!b.fields, () => sameFields(a.fields!, b.fields!, a.format !== b.format));
  note('extent', a.extent !== null && b.extent !== null, () => sameNumbers(a.extent!, b.extent!));
  note('occupied cells', a.grid !== null && b.grid !== null, () => a.grid === b.grid);
  note(
    'pixels',
    a.raster !== null && b.raster !== null,
    () => a.raster!.width === b.raster!.width && a.raster!.height === b.raster!.height,
  );
  if (other.length === 0 && same.length >= 2 && (a.extent !== null || (a.count ?? 0) > 0) && hasSubstance(b)) {
    kinds.add('content');
    evidence.push(`Same ${same.join(', ')}.`);
  } else {
    if (same.length) evidence.push(`Same ${same.join(', ')}.`);
    if (other.length) evidence.push(`Other ${other.join(', ')} than remembered.`);
  }
  return same.length * A_CONTENT_PART - other.length * A_CONTENT_PART;
}
