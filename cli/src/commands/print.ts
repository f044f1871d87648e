import {
  GRIDS,
  isMapFile,
  NOTE_PLACES,
  PAPERS,
  ProblemError,
  readScale,
  scaleText,
  splitName,
  type Grid,
  type PageNote,
} from '@rootmap/core';
import { basename, checkPagePath, dataFolder, pathFrom, planPage, printMap, rooted, runChange, type PrintWish } from '@rootmap/engine';
import { textFlag, type Call, type Command } from '../command.js';
import type { PageLayout } from '@rootmap/core/contract';
import { keptLayouts, withJournal } from '../journal.js';
import { heads, scopeAround, who } from '../scope.js';
import { crsFlag } from '../selection.js';
import { many } from '../text.js';

/** A map as a page, without a browser. */
export const print: Command = {
  usage:
    'print MAP FILE.pdf|FILE.svg [--paper A5|A4|Letter|A3|A2|A1|A0] [--upright] [--crs EPSG:n] [--scale 1:n] [--view NAME] [--at=LON,LAT] [--title TEXT] [--text [PLACE:]TEXT]… [--grid plane|degrees] [--attribution TEXT] [--without legend,bar,north] [--with region,land] [--columns 1|2|3] [--dpi N] [--layout NAME]',
  summary:
    'Writes a map as a page: shapes as lines, labels as text, rasters as pictures; names the layers that are not on it. A layout that was kept gives what is not said here.',
  examples: [
    'print maps/harbour.owc.json exports/harbour.pdf --paper A3 --scale 1:25000',
    'print maps/harbour.owc.json exports/draft.pdf --text "upper-middle:Draft" --text "Not for navigation"',
    'print maps/harbour.owc.json exports/pier.svg --view "The pier" --grid degrees --without legend',
    'print maps/harbour.owc.json exports/wall.pdf --layout "Wall sheet" --with region',
  ],
  flags: {
    paper: { type: 'string' },
    upright: { type: 'boolean' },
    crs: { type: 'string' },
    scale: { type: 'string' },
    view: { type: 'string' },
    at: { type: 'string' },
    title: { type: 'string' },
    text: { type: 'string', multiple: true },
    grid: { type: 'string' },
    attribution: { type: 'string' },
    without: { type: 'string' },
    with: { type: 'string' },
    columns: { type: 'string' },
    layout: { type: 'string' },
    dpi: { type: 'string' },
  },
  paths: [2, 2],
  run: async (call) => {
    const [map, file] = [call.paths[0]!, call.paths[1]!];
    if (!isMapFile(map)) throw wrongUse(`${basename(map)} is no map. Name a map of a project.`);
    const scope = rooted(scopeAround(call, map));
    const wish = wishOf(call, file, await layoutFlag(call));
    checkPagePath(file, call.words[1]!);
    const page = await printMap(scope, pathFrom(scope.root, map), wish, dataFolder(), ({ done, of, item }) =>
      call.progress(`${done} of ${of ?? 0}: ${item ?? ''}`),
    );
    const change = planPage(file, page.bytes, { title: `Print ${wish.title ?? basename(map)}`, root: scope.root, who: who() });
    await withJournal((options) => runChange(change, options));
    const { drawn, left, labelsLeft, legendLeft, scale, crs } = page;
    return {
      json: { ...heads(scope), file, map, scale, crs, drawn, left, labelsLeft, legendLeft, bytes: page.bytes.length },
      text: [
        file,
        `${scaleText(scale)} in ${crs}, ${wish.paper}; ${many(drawn.length, 'layer')} on it`,
        ...left.map((l) => `not on it: ${l.title}: ${l.why}`),
        ...(labelsLeft > 0 ? [`${many(labelsLeft, 'label')} found no room`] : []),
        ...(legendLeft > 0 ? [`the legend has no room for ${many(legendLeft, 'row')}`] : []),
      ],
      status: left.length > 0 || legendLeft > 0 ? 1 : 0,
    };
  },
};

/** Texts on the map, each at the lower left, or where a place before its colon says. */
function notesOf({ flags }: Call): PageNote[] {
  const given = flags['text'];
  return (Array.isArray(given) ? (given as readonly string[]) : []).map((words): PageNote => {
    const place = NOTE_PLACES.find((p) => words.startsWith(`${p}:`));
    return { text: place ? words.slice(place.length + 1) : words, place: place ?? 'lower-left' };
  });
}

const wrongUse = (message: string): ProblemError => new ProblemError({ code: 'wrong-use', message });

const MARKS = ['legend', 'bar', 'north'] as const;
const MORE = ['region', 'land'] as const;

/** @param layout gives what the call does not say; null: what is usual does */
function wishOf(call: Call, file: string, layout: PageLayout | null): PrintWish {
  const ending = splitName(basename(file)).ending.toLowerCase();
  if (ending !== '.pdf' && ending !== '.svg') throw wrongUse(`What ${basename(file)} is to be cannot be told: end it in .pdf or .svg.`);
  const without = listFlag(call, 'without', MARKS);
  const more = listFlag(call, 'with', MORE);
  const has = (mark: (typeof MARKS)[number]): boolean => !without.includes(mark) && (layout?.has[mark] ?? true);
  return {
    format: ending === '.pdf' ? 'pdf' : 'svg',
    paper: oneOf(call, 'paper', Object.keys(PAPERS) as (keyof typeof PAPERS)[]) ?? layout?.paper ?? 'A4',
    isWide: call.flags['upright'] !== true && (layout?.isWide ?? true),
    crs: crsFlag(call, 'crs'),
    title: textFlag(call, 'title'),
    scale: scaleFlag(call),
    at: atFlag(call),
    view: textFlag(call, 'view'),
    dpi: dpiFlag(call, layout?.dpi),
    notes: call.flags['text'] === undefined ? (layout?.notes ?? []) : notesOf(call),
    grid: oneOf<Grid>(call, 'grid', GRIDS) ?? layout?.grid ?? 'none',
    has: { legend: has('legend'), bar: has('bar'), north: has('north'), locator: more.includes('region') || layout?.has.locator === true },
    legendColumns: columnsFlag(call) ?? layout?.legendColumns ?? 1,
    hasLand: more.includes('land'),
    attribution: textFlag(call, 'attribution'),
    date: new Date().toISOString().slice(0, 10),
  };
}

/** What stands in a list with commas. */
function listFlag<T extends string>(call: Call, name: string, choices: readonly T[]): readonly T[] {
  const given = (textFlag(call, name) ?? '').split(',').filter(Boolean);
  const strange = given.find((w) => !choices.some((m) => m === w));
  if (strange !== undefined) throw wrongUse(`A page has no ${strange}: --${name} takes ${choices.join(', ')}.`);
  return given as T[];
}

function columnsFlag(call: Call): PageLayout['legendColumns'] | null {
  const given = textFlag(call, 'columns');
  const found = ([1, 2, 3] as const).find((n) => String(n) === given) ?? null;
  if (given !== null && found === null) throw wrongUse('--columns takes 1, 2 or 3: so many stand beside one another in the legend.');
  return found;
}

/** A layout as somebody kept it in the browser. */
async function layoutFlag(call: Call): Promise<PageLayout | null> {
  const name = textFlag(call, 'layout');
  if (name === null) return null;
  const layouts = await keptLayouts();
  const found = layouts.find((l) => l.name === name);
  if (found) return found;
  const known = layouts.map((l) => `"${l.name}"`).join(', ');
  throw wrongUse(
    `No layout is called "${name}". ${known === '' ? 'None is kept yet: the browser keeps them in Print frame.' : `Kept are ${known}.`}`,
  );
}

function oneOf<T extends string>(call: Call, name: string, choices: readonly T[]): T | null {
  const given = textFlag(call, name);
  const found = choices.find((c) => c.toLowerCase() === given?.toLowerCase()) ?? null;
  if (given !== null && found === null) throw wrongUse(`--${name} takes one of ${choices.join(', ')}.`);
  return found;
}

function scaleFlag(call: Call): number | null {
  const given = textFlag(call, 'scale');
  const scale = given === null ? null : readScale(given);
  if (given !== null && scale === null) throw wrongUse('--scale takes a scale such as 1:25000.');
  return scale;
}

function atFlag(call: Call): readonly [number, number] | null {
  const given = textFlag(call, 'at');
  if (given === null) return null;
  const [longitude, latitude, ...more] = given.split(',').map(Number);
  if (more.length > 0 || !(Math.abs(longitude!) <= 360) || !(Math.abs(latitude!) <= 90))
    throw wrongUse('--at takes degrees with a comma between: longitude, latitude, such as --at=-39.5,44.1.');
  return [longitude!, latitude!];
}

const DPI = { least: 36, usual: 200, most: 600 };
function dpiFlag(call: Call, usual: number = DPI.usual): number {
  const given = textFlag(call, 'dpi');
  const dpi = given === null ? usual : Number(given);
  if (!(dpi >= DPI.least && dpi <= DPI.most)) throw wrongUse(`--dpi takes a number from ${DPI.least} to ${DPI.most}.`);
  return dpi;
}
