import { layerNamesOf, ProblemError, resourceName, serviceAddress, type Progress, type ServiceItem } from '@rootmap/core';
import {
  confine,
  copyFeatures,
  dataFolder,
  dirname,
  bringIn,
  datasetsOfFile,
  join,
  noteOriginOf,
  planEdit,
  planImport,
  readMaps,
  resolve,
  rooted,
  runChange,
  withHalfHelper,
  writeImport,
  type RootedScope,
  type ServiceDesk,
} from '@rootmap/engine';
import { textFlag, type Answer, type Call, type Command } from '../command.js';
import { signInFrom, SIGN_IN_FLAGS, withDesk, type FromHere } from '../desk.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { columns, many } from '../text.js';

const wrongUse = (message: string): ProblemError => new ProblemError({ code: 'wrong-use', message });

export const services: Command = {
  usage:
    'services list FOLDER | add FOLDER ADDRESS [--name NAME] | try FOLDER [NAME…] | items FOLDER NAME [--find WORDS] | copy FOLDER NAME ITEM --into FILE.gpkg [--box=W,S,E,N] [--table NAME [--replace]] [--to-crs EPSG:n]',
  summary: 'Linked services: which there are, whether they answer, what they offer, and copies of it.',
  examples: [
    'services add . https://maps.example/wms --name charts',
    'services items . charts --find depth',
    'services copy . base buoys --into buoys.gpkg --box=-39.3,43.9,-39.1,44.0',
  ],
  flags: {
    name: { type: 'string' },
    find: { type: 'string' },
    into: { type: 'string' },
    box: { type: 'string' },
    table: { type: 'string' },
    replace: { type: 'boolean' },
    'to-crs': { type: 'string' },
    ...SIGN_IN_FLAGS,
  },
  paths: [2, 50],
  run: async (call) => {
    const [verb] = call.words;
    const scope = rooted(scopeOf(call, call.paths[1]));
    const rest = call.words.slice(2);
    return withDesk(scope, async (from): Promise<Answer> => {
      if (verb === 'list') return list(scope, from.desk);
      if (verb === 'add') return add(call, scope, from, rest);
      if (verb === 'try') return tryThem(scope, from, rest);
      if (verb === 'items') return items(call, scope, from, rest);
      if (verb === 'copy') return copy(call, scope, from, rest);
      throw wrongUse(`There is no "services ${verb}": list, add, try, items and copy are there.`);
    });
  },
};

const linkedIn = (scope: RootedScope) => scope.project?.services ?? [];

function named(scope: RootedScope, name: string | undefined) {
  const found = linkedIn(scope).find((s) => s.name === name || s.url === name);
  if (!found)
    throw wrongUse(
      `No service is linked as "${name ?? ''}". ${
        linkedIn(scope).length === 0
          ? 'None is linked: rootmap services add.'
          : `Linked are: ${linkedIn(scope)
              .map((s) => s.name)
              .join(', ')}.`
      }`,
    );
  return found;
}

function rows(scope: RootedScope, desk: ServiceDesk) {
  const asked = desk.asked();
  const layers = readMaps(scope).maps.flatMap((map) =>
    map.layers.flatMap(({ layer }) =>
      layer.isService ? [{ map: map.path, layer: layer.id, title: layer.title, href: layer.reference!.href }] : [],
    ),
  );
  const known = new Set(linkedIn(scope).map((s) => serviceAddress(s.url)));
  const others = [...new Set(layers.map((l) => serviceAddress(l.href)))].filter((url) => !known.has(url));
  return [...linkedIn(scope), ...others.map((url) => ({ name: null, kind: null, url }))].map((s) => {
    const answer = asked.get(serviceAddress(s.url));
    return {
      ...s,
      state: answer ? (answer.answered ? 'answers' : 'no-answer') : 'not-asked',
      asked: answer ? new Date(answer.atMs).toISOString() : null,
      lastAnswer: answer?.okMs ? new Date(answer.okMs).toISOString() : null,
      why: answer?.why ?? null,
      signedIn: desk.signInKind(s.url),
      usedBy: layers.filter((l) => serviceAddress(l.href) === serviceAddress(s.url)),
    };
  });
}

function answerOf(scope: RootedScope, all: ReturnType<typeof rows>): Answer {
  const bad = all.filter((s) => s.state === 'no-answer').length;
  return {
    json: { ...heads(scope), services: all },
    text: [
      ...columns(all.map((s) => [s.state, s.kind ?? 'not linked', s.name ?? '', many(s.usedBy.length, 'layer'), s.url])),
      ...all.flatMap((s) => (s.why ? [`${s.name ?? s.url}: ${s.why}`] : [])),
      `${many(all.length, 'service')}${bad > 0 ? `, ${bad} without an answer` : ''}`,
    ],
    status: bad > 0 ? 1 : 0,
  };
}

const list = (scope: RootedScope, desk: ServiceDesk): Answer => answerOf(scope, rows(scope, desk));

async function add(call: Call, scope: RootedScope, { desk, place }: FromHere, [address]: readonly string[]): Promise<Answer> {
  if (address === undefined) throw wrongUse('Say which: rootmap services add FOLDER ADDRESS.');
  const found = await desk.find(place, address, await signInFrom(call));
  if (found.signIn) await desk.signIn(found.url, found.signIn);
  await desk.learn(place, found);
  const { tree, url } = found;
  const name = textFlag(call, 'name') ?? tree.title.slice(0, 80);
  const { change } = await planEdit(
    scope,
    { kind: 'link-service', name, service: tree.kind, url },
    {
      roots: [],
      who: who(),
      missed: [],
      isQuick: true,
      resolve: (at, mayBeNew) =>
        confine(
          call.places.find((p) => p.name === at.place)!,
          at.path,
          mayBeNew,
        ),
    },
  );
  await withJournal(async (options) => void (change && (await runChange(change, options))));
  const count = tree.items.filter((i) => i.name !== '').length;
  return {
    json: { ...heads(scope), name, kind: tree.kind, url, title: tree.title, items: count, more: tree.more },
    text: [`${name} (${tree.kind}): ${url}`, `${many(count, 'thing')} offered${tree.more > 0 ? `, and ${tree.more} more` : ''}`],
    status: 0,
  };
}

async function tryThem(scope: RootedScope, { desk, place }: FromHere, names: readonly string[]): Promise<Answer> {
  const wanted = names.length > 0 ? names.map((n) => named(scope, n)) : linkedIn(scope);
  if (wanted.length === 0) throw wrongUse('No service is linked: rootmap services add FOLDER ADDRESS.');
  await Promise.all(wanted.map((s) => desk.ask(place, s.url, s.kind)));
  return answerOf(
    scope,
    rows(scope, desk).filter((r) => wanted.some((w) => w.name === r.name)),
  );
}

async function items(call: Call, scope: RootedScope, { desk, place }: FromHere, [name]: readonly string[]): Promise<Answer> {
  const service = named(scope, name);
  const { tree, readMs } = await desk.tree(place, service.url, service.kind, true);
  const words = String(call.flags['find'] ?? '')
    .toLowerCase()
    .split(/\s+/)
    .filter(Boolean);
  const hay = (i: ServiceItem): string => [i.title, i.name, i.publisher, i.description, ...i.keywords].join(' ').toLowerCase();
  const listed = tree.items.filter((i) => i.name !== '' && words.every((w) => hay(i).includes(w)));
  // A catalogue too large to be listed whole is searched where it stands.
  const there = tree.more > 0 && words.length > 0 ? await desk.search(place, service.url, words.join(' ')) : null;
  const found = [...listed, ...(there?.items ?? []).filter((i) => !listed.some((l) => l.name === i.name))];
  const more = there?.more ?? tree.more;
  return {
    json: { ...heads(scope), service: service.name, kind: tree.kind, read: new Date(readMs).toISOString(), more, items: found },
    text: [
      ...columns(found.map((i) => [i.use, i.name, i.changed?.slice(0, 10) ?? '', i.publisher ?? '', i.title])),
      `${many(found.length, 'thing')}${more > 0 ? `; at least ${more} more are not listed` : ''}`,
    ],
    status: 0,
  };
}

function boxFlag(call: Call): readonly number[] | null {
  const box = call.flags['box'];
  if (box === undefined) return null;
  const numbers = String(box).split(',').map(Number);
  if (numbers.length !== 4 || !numbers.every(Number.isFinite))
    throw wrongUse('--box takes four numbers in degrees: west,south,east,north.');
  return numbers;
}

async function copy(call: Call, scope: RootedScope, { desk, wire, place }: FromHere, [name, wanted]: readonly string[]): Promise<Answer> {
  const service = named(scope, name);
  const { into, table, 'to-crs': crs } = call.flags;
  if (wanted === undefined || typeof into !== 'string')
    throw wrongUse('Say what, and where to: rootmap services copy FOLDER NAME ITEM --into FILE.gpkg.');
  const { tree } = await desk.tree(place, service.url, service.kind, false);
  const item = tree.items.find((i) => i.name === wanted);
  if (!item?.href) throw wrongUse(`${service.name} offers nothing named "${wanted}". rootmap services items lists what it has.`);
  if (item.use !== 'copyable') throw wrongUse(`"${item.title}" is a ${item.use}: it cannot be copied as records.`);
  const degrees = boxFlag(call);
  const folder = join(dataFolder(), 'fetching', `copy-${resourceName(`${service.name} ${wanted} ${degrees?.join(' ') ?? ''}.x`)}`);
  const order = {
    layer: item.href,
    service: serviceAddress(item.href),
    degrees,
    folder,
    name: resourceName(layerNamesOf(item.href)[0] ?? wanted),
    signIn: await desk.signInFor(item.href),
  };
  const told = ({ done, of }: Progress): void => call.progress(`${done}${of > 0 ? ` of ${of}` : ''} records`);
  const copied = await copyFeatures(wire, order, told);
  noteOriginOf(copied, order, { item, service: service.name, publisher: tree.publisher });
  const file = resolve(call.cwd, into);
  const find = () => datasetsOfFile(copied.file)[0]!;
  const part = {
    dataset: copied.file,
    part: null,
    table: typeof table === 'string' ? table : '',
    replaces: call.flags['replace'] === true,
  };
  const { plan, receipts, failed } = await withHalfHelper(import.meta.url, true, (helper) =>
    bringIn([part], {
      plan: (left) => planImport(scopeOf(call, dirname(file)), find, file, left, typeof crs === 'string' ? crs : null, who()),
      write: (some, staged) => writeImport(find, some, file, staged, () => undefined, { helper, makesValid: false }),
      apply: (change, _, stage) => withJournal(async (options) => void (await runChange(change, { ...options, stage }))),
    }),
  );
  const [receipt] = receipts;
  const refused = [...plan.items.filter((i) => i.why !== null), ...failed].map((r) => r.why);
  if (!receipt) throw wrongUse(`It came, and cannot be brought in: ${refused[0] ?? 'nothing of it can be read'}.`);
  desk.forget(folder);
  const isWhole = receipt.isEqual && receipt.skipped.length === 0 && (copied.told === null || copied.told === copied.came);
  return {
    json: {
      ...heads(scope),
      geodatabase: file,
      table: receipt.table,
      told: copied.told,
      came: copied.came,
      resumedAt: copied.resumedAt,
      written: receipt.written,
      equal: receipt.isEqual,
      skipped: receipt.skipped,
      losses: receipt.losses,
    },
    text: [
      `${file}#${receipt.table}: ${many(copied.came, 'record')} came${copied.told !== null && copied.told !== copied.came ? ` of ${copied.told} that the server told of` : ''}, ${receipt.written} written`,
      receipt.isEqual ? 'read back: values and shapes are the same' : 'read back: values differ',
    ],
    status: isWhole ? 0 : 1,
  };
}
