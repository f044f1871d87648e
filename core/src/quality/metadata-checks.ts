import type { Dataset } from '../dataset/dataset.js';
import type { Origin } from '../origin/origin.js';
import { checked, type QualityCheck } from './quality-check.js';

/** What is known of a dataset beside its records. */
export interface MetadataSubject {
  readonly dataset: Pick<Dataset, 'crs' | 'bbox' | 'kind'>;
  /** Null: nothing is written down. */
  readonly origin: Origin | null;
  /** It is made in the project: it has no publisher, and nobody fetched it. */
  readonly isMadeHere: boolean;
  /** Code of the project's CRS; null: it has none. */
  readonly projectCrs: string | null;
  /** When its newest file was changed, and now. */
  readonly modifiedMs: number;
  readonly nowMs: number;
}

const DAY_MS = 86_400_000;
/** Older than this somebody should look for a newer edition (common practice, no source). */
const OLD_DAYS = 5 * 365;

/**
 * What is written down of a dataset, element by element: those that ISO 19115-1 asks of every geographic dataset (title, who is
 * responsible, extent, CRS; from memory) and a Frictionless resource (name, path, licences, sources), and those that are wanted. Of what
 * is made in the project no publisher is asked.
 */
export function metadataChecks({ dataset, origin, isMadeHere, projectCrs, modifiedMs, nowMs }: MetadataSubject): QualityCheck[] {
  const isPlaced = dataset.kind === 'vector' || dataset.kind === 'raster';
  const has = (member: keyof Origin): boolean => typeof origin?.[member] === 'string' && origin[member] !== '';
  const source: [string, boolean][] = [
    ['title', has('title')],
    ['publisher', has('publisher')],
    ['where it came from', has('address') || has('page')],
    ['day it was fetched', has('fetched')],
    ['licence', has('licence')],
  ];
  const required: [string, boolean][] = [
    ...(isMadeHere ? [] : source),
    ...(isPlaced
      ? ([
          ['CRS', dataset.crs !== null],
          ['extent', dataset.bbox !== null],
        ] as [string, boolean][])
      : []),
  ];
  const wanted: [string, boolean][] = [
    ...(isMadeHere ? source.filter(([name]) => name === 'title' || name === 'licence') : []),
    ['attribution', has('attribution')],
    ...(isPlaced
      ? ([
          ['scale', has('statedScale')],
          ['units', has('statedUnits')],
        ] as [string, boolean][])
      : []),
    ['limits of use', has('disclaimer')],
    ['notes', has('notes')],
  ];
  const missing = (list: typeof required): string[] => list.flatMap(([name, isThere]) => (isThere ? [] : [name]));
  const [needed, good] = [missing(required), missing(wanted)];
  const detail = [
    needed.length === 0 ? 'All that is required is written down.' : `Required and missing: ${needed.join(', ')}.`,
    ...(good.length === 0 ? [] : [`Wanted and missing: ${good.join(', ')}.`]),
  ].join(' ');
  return [
    checked(
      'metadata',
      needed.length > 0 ? 'fail' : good.length > 0 ? 'note' : 'pass',
      [needed.length + good.length, required.length + wanted.length],
      detail,
    ),
    ...(isPlaced ? crsChecks(dataset, projectCrs) : []),
    age(modifiedMs, nowMs),
  ];
}

function crsChecks({ crs }: Pick<Dataset, 'crs'>, projectCrs: string | null): QualityCheck[] {
  if (!crs) return [checked('crs', 'fail', [1, 1], 'Nobody says in which CRS its coordinates are.')];
  const named = crs.code ?? crs.name ?? 'a CRS of its own';
  const own = checked('crs', 'pass', [0, 1], `Its coordinates are in ${named}.`);
  if (projectCrs === null) return [own];
  const isSame = crs.code === projectCrs;
  const detail = isSame ? `It is in the CRS of the project, ${projectCrs}.` : `It is in ${named}, the project in ${projectCrs}.`;
  return [own, checked('project-crs', isSame ? 'pass' : 'note', [isSame ? 0 : 1, 1], detail)];
}

function age(modifiedMs: number, nowMs: number): QualityCheck {
  const days = Math.max(0, Math.floor((nowMs - modifiedMs) / DAY_MS));
  const day = new Date(modifiedMs).toISOString().slice(0, 10);
  return checked(
    'age',
    days > OLD_DAYS ? 'note' : 'pass',
    [days > OLD_DAYS ? 1 : 0, 1],
    `Its files were changed last on ${day}, ${days} days before it was looked at.`,
  );
}
