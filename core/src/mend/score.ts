import type { Fingerprint } from '../dataset/fingerprint.js';
import { differenceFrom } from '../map/layer-state.js';
import { commonSuffix, matchNames } from './names.js';
import type { BrokenLayer, Candidate, EvidenceKind, Target } from './types.js';

/** Points: hash 60, name 20, folders 12, content 30, format 3. Only their order matters. */
const HASH = 60;
const NAME = { same: 20, spelling: 14, suffix: 8, none: 0 } as const;
const A_FOLDER = 4;
const MOST_FOLDERS = 12;
const A_CONTENT_PART = 6;
const FORMAT = 3;
const LINK = 25;

/** Equal hashes are proof only with at least one feature or pixel in them. */
const hasSubstance = (f: Fingerprint): boolean => f.raster !== null || f.count === null || f.count > 0;

/** How well a dataset fits a layer; null where something rules it out. */
export function scoreCandidate(layer: BrokenLayer, target: Target): Candidate | null {
  if (target.damaged) return null;
  const found = target.fingerprint;
  const difference = differenceFrom(layer.fingerprint, found, layer.needs);
  if (difference) return null;
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
  return kinds.size > 0 || name > 0 ? { target, score, kinds, evidence } : null;
}

function nameScore(layer: BrokenLayer, target: Target, kinds: Set<EvidenceKind>, evidence: string[]): number {
  const recorded = layer.recorded?.segments;
  const found = target.location.segments;
  const last = recorded?.[recorded.length - 1];
  if (!recorded || last === undefined) return 0;
  const file = found[found.length - 1]!;
  const converted = target.table !== null && layer.table === null;
  const match = converted ? (matchNames(last, `${target.table}.x`) === 'none' ? 'none' : 'spelling') : matchNames(last, file);
  const tableMatch = layer.table === null || target.table === null ? 'same' : matchNames(`${layer.table}.x`, `${target.table}.x`);
  if (match === 'none' || tableMatch === 'none') return 0;
  const folders = Math.min(commonSuffix(recorded, found), 8);
  if (match === 'same' && tableMatch === 'same') {
    kinds.add('name');
    evidence.push(
      folders === 0 ? 'Same name.' : `Same name, and the last ${folders === 1 ? 'folder' : `${folders} folders`} of its path too.`,
    );
  } else if (converted) evidence.push(`Table ${target.table} has its name.`);
  else evidence.push(match === 'suffix' ? `Nearly the same name: ${file}.` : `Same name in another spelling: ${file}.`);
  const points = Math.min(NAME[match], NAME[tableMatch]);
  return points + Math.min(MOST_FOLDERS, folders * A_FOLDER);
}

const sameFields = (a: Fingerprint['fields'], b: Fingerprint['fields']): boolean =>
  a!.length === b!.length && a!.every(([n, t], i) => n === b![i]![0] && t === b![i]![1]);
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
  note('fields', !!a.fields?.length && !!b.fields, () => sameFields(a.fields, b.fields));
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
