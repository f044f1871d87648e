import type { LayerView, ProjectView } from '@rootmap/core/contract';

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
export function nextSteps(p: ProjectView): NextStep[] {
  const base = `/p/${p.key}`;
  const all = p.maps.flatMap((m) => m.layers);
  const steps: NextStep[] = [];
  for (const d of p.damaged)
    steps.push({
      id: `damaged ${d.path}`,
      tone: 'plum',
      title: 'A map file is damaged',
      detail: d.message,
      button: 'See the map',
      to: `${base}/maps`,
    });
  for (const m of p.maps) {
    const adrift = m.layers.filter((l) => l.state === 'adrift');
    if (adrift.length === 0) continue;
    const folders = [...new Set(adrift.map((l) => l.recordedFolder).filter((f) => f !== null))];
    const detail =
      folders.length === 1
        ? `Recorded under ${folders[0]}; nothing is there now.`
        : folders.length === 0
          ? 'No source is recorded.'
          : `Recorded under ${folders.length} folders; nothing is there now.`;
    steps.push({
      id: `adrift ${m.path}`,
      tone: 'plum',
      title: `${layers(adrift.length)} ${is(adrift.length)} adrift in ${m.title}`,
      detail,
      button: `See the proof and mend ${adrift.length}`,
      to: `${base}/mend?layer=${encodeURIComponent(adrift[0]!.key)}`,
    });
  }
  const group = (state: LayerView['state'], tone: NextStep['tone'], title: (n: number) => string, button: string): void => {
    const some = all.filter((l) => l.state === state);
    if (some.length)
      steps.push({
        id: state,
        tone,
        title: title(some.length),
        detail:
          some[0]!.detail ??
          some
            .map((l) => l.title)
            .slice(0, 3)
            .join(', '),
        button,
        to: `${base}/mend?layer=${encodeURIComponent(some[0]!.key)}`,
      });
  };
  group('unreadable', 'plum', (n) => `${layers(n)} cannot be read`, 'See why');
  group('different', 'ochre', (n) => `${layers(n)} ${n === 1 ? 'has' : 'have'} other data than before`, 'Compare');
  group('incomplete', 'ochre', (n) => `${layers(n)} ${n === 1 ? 'has' : 'have'} lost a file`, 'See what is lost');
  const absent = all.filter((l) => l.state === 'absent');
  if (absent.length)
    steps.push({
      id: 'absent',
      tone: 'slate',
      title: `${layers(absent.length)} ${absent.length === 1 ? 'waits' : 'wait'} for a place`,
      detail: 'Plug it in or connect it: there is nothing to mend.',
      button: 'See the places',
      to: '/places',
    });
  const absolute = all.filter((l) => l.stored === 'absolute' && l.reach === 'inside');
  if (absolute.length)
    steps.push({
      id: 'absolute',
      tone: 'ochre',
      title: `${absolute.length} ${absolute.length === 1 ? 'reference is' : 'references are'} absolute`,
      detail: 'Of data that is inside the root; they name one machine.',
      button: 'Make relative',
      to: `${base}/maps?map=${encodeURIComponent(p.maps.find((m) => m.path === absolute[0]!.map)?.relativePath ?? '')}`,
    });
  const outside = all.filter((l) => l.reach === 'outside' && l.state === 'sound');
  if (outside.length)
    steps.push({
      id: 'outside',
      tone: 'ochre',
      title: `${layers(outside.length)} ${outside.length === 1 ? 'draws' : 'draw'} on data outside, without a link`,
      detail: `${outside
        .slice(0, 3)
        .map((l) => l.title)
        .join(', ')}: not there when the project is sent.`,
      button: 'See the references',
      to: `${base}/maps?map=${encodeURIComponent(p.maps.find((m) => m.path === outside[0]!.map)?.relativePath ?? '')}`,
    });
  if (steps.length === 0 && all.length)
    steps.push({
      id: 'send',
      tone: 'spruce',
      title: 'Every layer is sound',
      detail: 'The project can be handed on as it is.',
      button: 'Make a bundle',
      to: `${base}/send`,
    });
  return steps;
}

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
