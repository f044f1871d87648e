import type { ProjectSummary } from '@rootmap/core/contract';
import { brokenIn } from '../start/project-order.js';

/** What is known while somebody walks a way. */
export interface Seen {
  /** Path of the page. */
  readonly at: string;
  readonly projects: readonly ProjectSummary[];
}
/** How things stood when the way was begun. */
export interface Begun {
  readonly broken: number;
  readonly keys: readonly string[];
}
export interface WayStep {
  /** One sentence: what is to be seen here, or done. */
  readonly says: string;
  /** Page of the step; `:key` is the project of the way. */
  readonly at: string;
  /** What was to be done is done, and the way goes on by itself; left out: a person says so. */
  readonly isDone?: (seen: Seen, key: string | null, begun: Begun) => boolean;
}
export interface Way {
  readonly id: WayId;
  readonly title: string;
  readonly minutes: number;
  readonly about: string;
  readonly steps: readonly WayStep[];
}
export type WayId = 'mend' | 'make' | 'send';

const projectOf = (seen: Seen, key: string | null): ProjectSummary | undefined => seen.projects.find((p) => p.key === key);
const keyIn = (at: string): string | null => /^\/p\/([^/]+)/.exec(at)?.[1] ?? null;
/** The project that was made since a way was begun, where its page is open. */
export const madeSince = (seen: Seen, begun: Begun): string | null => {
  const key = keyIn(seen.at);
  return key !== null && !begun.keys.includes(key) ? key : null;
};
export const brokenOf = (p: ProjectSummary | undefined): number => (p?.totals ? brokenIn(p.totals) : 0);

export const WAYS: readonly Way[] = [
  {
    id: 'mend',
    title: 'Mend what broke',
    minutes: 2,
    about: 'See which layers lost their data, what happened to it, and put them right in one press.',
    steps: [
      { at: '/p/:key/overview', says: 'Each line leads from a layer to its data; plum lines end where data was recorded and is no more.' },
      {
        at: '/p/:key/mend',
        says: 'On the left is what is wrong, beside it what explains it and the proof: press “Mend … certain layers” when you agree.',
        isDone: (seen, key, begun) => brokenOf(projectOf(seen, key)) < begun.broken,
      },
      { at: '/p/:key/overview', says: 'The maps are written and were read back: the lines lead to where the data is now.' },
      { at: '/journal', says: 'Every change stands here with each of its files, and can be taken back in one press.' },
    ],
  },
  {
    id: 'make',
    title: 'Make a project',
    minutes: 3,
    about: 'From a title to folders with a purpose, a geodatabase, data that came in, and a map of it.',
    steps: [
      {
        at: '/new',
        says: 'Type a title: name and folders follow from it, and are shown before anything is made; then press “Make the project”.',
        isDone: (seen, _key, begun) => madeSince(seen, begun) !== null,
      },
      {
        at: '/p/:key/sources?view=intake',
        says: 'Bring in an archive or a folder: what it holds is looked at first, and goes where your plan says.',
        isDone: (seen, key) => (projectOf(seen, key)?.datasets ?? 0) > 0,
      },
      {
        at: '/p/:key/sources',
        says: 'Tick what came and press “Bring into map”: its paths are stored relatively, so that the project can move.',
        isDone: (seen, key) => (projectOf(seen, key)?.maps ?? 0) > 0,
      },
      { at: '/p/:key/folders', says: 'This is the project on disk: move or rename anything here, and the maps go along.' },
    ],
  },
  {
    id: 'send',
    title: 'Send it whole',
    minutes: 2,
    about: 'One file with maps and all their data, checked before it leaves and again where it arrives.',
    steps: [
      { at: '/p/:key/send', says: 'This is what goes along, and how each layer will be on the other side: told before anything is made.' },
      { at: '/p/:key/send', says: 'Press “Make the bundle”: it is written, and then read back file by file.' },
      { at: '/receive', says: 'Whoever gets it checks it here: each file against its checksum, and each layer against its data.' },
    ],
  },
];

/** The project that a way is shown on: most to mend, or looked at last. */
export function projectFor(way: WayId, projects: readonly ProjectSummary[]): ProjectSummary | null {
  const present = projects.filter((p) => p.present);
  const measure = (p: ProjectSummary): number => (way === 'mend' ? brokenOf(p) : p.openedMs * Math.min(1, p.maps ?? 0));
  return present.reduce<ProjectSummary | null>((best, p) => (best === null || measure(p) > measure(best) ? p : best), null);
}
export const pageOf = (step: WayStep, key: string | null): string => step.at.replace(':key', key ?? '');

/** Somebody is on a page: its path, and its view where it has several. */
export function isOn(page: string, pathname: string, search: string): boolean {
  const [path, query = ''] = page.split('?');
  return path === pathname && new URLSearchParams(query).get('view') === new URLSearchParams(search).get('view');
}
