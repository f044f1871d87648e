import type { LayerView, ProjectView, QualityRow } from '@rootmap/core/contract';
import { alsoNotAsked } from '../parts/tether.js';

export interface NextStep {
  readonly id: string;
  readonly tone: 'plum' | 'ochre' | 'slate' | 'spruce';
  readonly title: string;
  readonly detail: string;
  readonly button: string;
  readonly to: string;
}

const layers = (n: number): string => `${n} ${n === 1 ? 'layer' : 'layers'}`;
const is = (n: number): string => (n === 1 ? 'is' : 'are');

/** What to do in a project, worst consequence first. Pure. */
export function nextSteps(p: ProjectView, quality: readonly QualityRow[] = []): NextStep[] {
  const all = p.maps.flatMap((m) => m.layers);
  const steps = [
    ...p.damaged.map((d) => damagedStep(p, d)),
    ...p.maps.flatMap((m) => adriftStep(p, m)),
    ...troubleSteps(p, all),
    ...absentStep(all),
    ...serverStep(p, all),
    ...absoluteStep(p, all),
    ...outsideStep(p, all),
  ];
  return [...steps, ...dataSteps(p, quality), ...(steps.length === 0 && all.length > 0 ? [sendStep(p)] : [])];
}

const baseOf = (p: ProjectView): string => `/p/${p.key}`;
const mendAt = (p: ProjectView, layer: LayerView): string => `${baseOf(p)}/mend?layer=${encodeURIComponent(layer.key)}`;
const mapOf = (p: ProjectView, layer: LayerView): string =>
  `${baseOf(p)}/maps?map=${encodeURIComponent(p.maps.find((m) => m.path === layer.map)?.relativePath ?? '')}`;
const titles = (some: readonly LayerView[]): string =>
  some
    .slice(0, 3)
    .map((l) => l.title)
    .join(', ');

const damagedStep = (p: ProjectView, damaged: ProjectView['damaged'][number]): NextStep => ({
  id: `damaged ${damaged.path}`,
  tone: 'plum',
  title: 'A map file is damaged',
  detail: damaged.message,
  button: 'See the map',
  to: `${baseOf(p)}/maps`,
});

function adriftStep(p: ProjectView, m: ProjectView['maps'][number]): NextStep[] {
  const adrift = m.layers.filter((l) => l.state === 'adrift' && l.reach !== 'service');
  const [first] = adrift;
  if (!first) return [];
  const folders = [...new Set(adrift.map((l) => l.recordedFolder).filter((f) => f !== null))];
  const detail =
    folders.length === 1
      ? `Recorded under ${folders[0]}; nothing is there now.`
      : folders.length === 0
        ? 'No source is recorded.'
        : `Recorded under ${folders.length} folders; nothing is there now.`;
  return [
    {
      id: `adrift ${m.path}`,
      tone: 'plum',
      title: `${layers(adrift.length)} ${is(adrift.length)} adrift in ${m.title}`,
      detail,
      button: `See the proof and mend ${adrift.length}`,
      to: mendAt(p, first),
    },
  ];
}

const TROUBLES: readonly {
  readonly state: LayerView['state'];
  readonly tone: NextStep['tone'];
  readonly title: (n: number) => string;
  readonly button: string;
}[] = [
  { state: 'unreadable', tone: 'plum', title: (n) => `${layers(n)} cannot be read`, button: 'See why' },
  { state: 'different', tone: 'ochre', title: (n) => `${layers(n)} ${has(n)} other data than before`, button: 'Compare' },
  { state: 'incomplete', tone: 'ochre', title: (n) => `${layers(n)} ${has(n)} lost a file`, button: 'See what is lost' },
];
const has = (n: number): string => (n === 1 ? 'has' : 'have');

const troubleSteps = (p: ProjectView, all: readonly LayerView[]): NextStep[] =>
  TROUBLES.flatMap(({ state, tone, title, button }) => {
    const some = all.filter((l) => l.state === state);
    const [first] = some;
    return first
      ? [{ id: state, tone, title: title(some.length), detail: first.detail ?? titles(some), button, to: mendAt(p, first) }]
      : [];
  });

/** Servers that did not answer, or do not offer what is drawn of them any more. */
function serverStep(p: ProjectView, all: readonly LayerView[]): NextStep[] {
  const some = all.filter((l) => l.reach === 'service' && (l.state === 'absent' || l.state === 'adrift'));
  const [first] = some;
  if (!first) return [];
  return [
    {
      id: 'servers',
      tone: 'slate',
      title: `${layers(some.length)} ${some.length === 1 ? 'waits' : 'wait'} for a server`,
      detail: first.detail ?? titles(some),
      button: 'See the services',
      to: `${baseOf(p)}/sources?view=services`,
    },
  ];
}

function absentStep(all: readonly LayerView[]): NextStep[] {
  const absent = all.filter((l) => l.state === 'absent' && l.reach !== 'service').length;
  if (absent === 0) return [];
  return [
    {
      id: 'absent',
      tone: 'slate',
      title: `${layers(absent)} ${absent === 1 ? 'waits' : 'wait'} for a place`,
      detail: 'Plug it in or connect it: there is nothing to mend.',
      button: 'See the places',
      to: '/places',
    },
  ];
}

function absoluteStep(p: ProjectView, all: readonly LayerView[]): NextStep[] {
  const absolute = all.filter((l) => l.stored === 'absolute' && l.reach === 'inside');
  const [first] = absolute;
  if (!first) return [];
  return [
    {
      id: 'absolute',
      tone: 'ochre',
      title: `${absolute.length} ${absolute.length === 1 ? 'reference is' : 'references are'} absolute`,
      detail: 'Of data that is inside the root; they name one machine.',
      button: 'Make relative',
      to: mapOf(p, first),
    },
  ];
}

function outsideStep(p: ProjectView, all: readonly LayerView[]): NextStep[] {
  const outside = all.filter((l) => l.reach === 'outside' && l.state === 'sound');
  const [first] = outside;
  if (!first) return [];
  return [
    {
      id: 'outside',
      tone: 'ochre',
      title: `${layers(outside.length)} ${outside.length === 1 ? 'draws' : 'draw'} on data outside, without a link`,
      detail: `${titles(outside)}: not there when the project is sent.`,
      button: 'See the references',
      to: mapOf(p, first),
    },
  ];
}

const datasets = (n: number): string => `${n} ${n === 1 ? 'dataset' : 'datasets'}`;
const names = (rows: readonly QualityRow[]): string => {
  const shown = rows.slice(0, 3).map((r) => r.name.slice(r.name.lastIndexOf('/') + 1));
  return `${shown.join(', ')}${rows.length > shown.length ? ' …' : ''}`;
};

/** What is to be done about data, a row a sort, so that it is never longer than a few. */
function dataSteps(p: ProjectView, rows: readonly QualityRow[]): NextStep[] {
  const at = (query: string): string => `${baseOf(p)}/quality${query}`;
  const step = (
    id: string,
    tone: NextStep['tone'],
    some: readonly QualityRow[],
    [one, many]: readonly [string, string],
    button: string,
    to: string,
  ): NextStep[] =>
    some.length === 0
      ? []
      : [{ id, tone, title: `${datasets(some.length)} ${some.length === 1 ? one : many}`, detail: names(some), button, to }];
  return [
    ...step(
      'sheet damaged',
      'plum',
      rows.filter((r) => r.problem !== null),
      ['has a damaged quality sheet', 'have damaged quality sheets'],
      'See them',
      at(''),
    ),
    ...step(
      'sheet old',
      'ochre',
      rows.filter((r) => r.state === 'out-of-date'),
      ['changed since it was looked at', 'changed since they were looked at'],
      'Look again',
      at('?only=out-of-date'),
    ),
    ...step(
      'data faults',
      'ochre',
      rows.filter((r) => r.fails > 0),
      ['has faults', 'have faults'],
      'See the worst first',
      at('?only=to-do&order=worst'),
    ),
    ...step(
      'data without CRS',
      'ochre',
      rows.filter((r) => r.lacks.includes('crs')),
      ['tells no CRS', 'tell no CRS'],
      'State it',
      `${baseOf(p)}/sources?crs=no+CRS`,
    ),
    ...step(
      'data without origin',
      'slate',
      rows.filter((r) => r.lacks.includes('origin')),
      ['came in, and nobody wrote down from where', 'came in, and nobody wrote down from where'],
      'Write it down',
      `${baseOf(p)}/sources?state=origin+not+known`,
    ),
    ...step(
      'data unknown',
      'slate',
      rows.filter((r) => r.state === 'none' && r.problem === null),
      ['was never looked at', 'were never looked at'],
      'Check the data',
      at(''),
    ),
  ];
}

const sendStep = (p: ProjectView): NextStep => ({
  id: 'send',
  tone: 'spruce',
  title: `Every layer is sound${alsoNotAsked(p.totals['not-asked'])}`,
  detail: 'A bundle takes the project along, and says first what stays behind.',
  button: 'Make a bundle',
  to: `${baseOf(p)}/send`,
});

/** Bytes by the first folder below the root, largest first; companions counted with their dataset. */
export function bytesByFolder(p: ProjectView): { folder: string; bytes: number }[] {
  const sums = new Map<string, number>();
  const seen = new Set<string>();
  for (const d of p.datasets) {
    const file = d.id.replace(/#.*$/s, '');
    if (d.link !== null || seen.has(file)) continue;
    seen.add(file);
    const folder = d.folder.split('/')[0] || 'at the root';
    sums.set(folder, (sums.get(folder) ?? 0) + d.bytes);
  }
  return [...sums].map(([folder, bytes]) => ({ folder, bytes })).sort((a, b) => b.bytes - a.bytes);
}
