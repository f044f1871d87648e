import { createHash } from 'node:crypto';
import { ProblemError, type Progress } from '@rootmap/core';
import type { PutBackRow } from '@rootmap/core/contract';
import {
  ARCHIVE_ENDING,
  dataFolder,
  dirname,
  fetchFile,
  join,
  lookForEdition,
  pathFrom,
  planPutBack,
  planTakeEdition,
  recordedAddresses,
  resolve,
  rooted,
  runChange,
  stageEdition,
  stayedOut,
  type StayedOut,
  unpackWhole,
  type RootedScope,
} from '@rootmap/engine';
import type { Answer, Call, Command } from '../command.js';
import { withDesk, type FromHere } from '../desk.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { columns, many } from '../text.js';

export const editions: Command = {
  usage: 'editions FOLDER [--take DATASET [--apply] | --missing [--apply] [--other]]',
  summary:
    'Asks whether newer editions stand at the addresses that data came from; --take fetches one, compares it, and lets it take its place; --missing fetches what stayed out of a bundle (--other: also what is no longer as it was).',
  examples: ['editions .', 'editions . --take originals/beds.shp --apply', 'editions . --missing --apply'],
  flags: { take: { type: 'string' }, missing: { type: 'boolean' }, other: { type: 'boolean' }, apply: { type: 'boolean' } },
  paths: [1, 1],
  run: async (call) => {
    const scope = rooted(scopeOf(call));
    const { take: dataset, missing } = call.flags;
    return withDesk(scope, (from) =>
      typeof dataset === 'string' ? take(call, scope, from, dataset) : missing === true ? putBack(call, scope, from) : look(scope, from),
    );
  },
};

async function look(scope: RootedScope, { desk, wire }: FromHere): Promise<Answer> {
  const recorded = recordedAddresses(scope, []);
  // One address may have been copied in several parts.
  const partOf = ({ address, origin }: (typeof recorded)[number]): string => `${address} ${origin.edition?.degrees?.join(',') ?? ''}`;
  const addresses = [...new Map(recorded.map((r) => [partOf(r), r])).values()];
  const looks = await Promise.all(
    addresses.map(async (r) => lookForEdition(wire, r.address, r.origin.edition ?? null, await desk.signInFor(r.address))),
  );
  const all = looks.map((l, i) => ({ ...l, datasets: recorded.filter((r) => partOf(r) === partOf(addresses[i]!)).map((r) => r.id) }));
  const changed = all.filter((l) => l.state === 'changed').length;
  const bad = all.some((l) => l.state !== 'unchanged' && l.state !== 'not-told');
  return {
    json: { ...heads(scope), editions: all },
    text: [
      ...columns(all.map((l) => [l.state, many(l.datasets.length, 'dataset'), l.address, l.why])),
      `${many(all.length, 'address', 'addresses')}, ${changed} changed`,
    ],
    status: bad ? 1 : 0,
  };
}

/** What stands at an address, fetched and unpacked. */
async function fetched(call: Call, { desk, wire }: FromHere, address: string) {
  const folder = join(dataFolder(), 'fetching', createHash('sha256').update(address).digest('hex').slice(0, 32));
  const told = ({ done, of }: Progress): void => call.progress(`${done}${of > 0 ? ` of ${of}` : ''} bytes`);
  const { path, edition } = await fetchFile(wire, { address, folder, signIn: await desk.signInFor(address) }, told);
  const isArchive = ARCHIVE_ENDING.test(path);
  const unpacked = isArchive ? join(folder, 'unpacked') : dirname(path);
  if (isArchive) await unpackWhole(path, unpacked);
  return { unpacked, origin: { fetched: new Date().toISOString().slice(0, 10), edition }, forget: () => desk.forget(folder) };
}

async function take(call: Call, scope: RootedScope, from: FromHere, dataset: string): Promise<Answer> {
  const wantedPath = resolve(call.cwd, dataset);
  const all = recordedAddresses(scope, []);
  const address = all.find((r) => r.id === wantedPath || r.id.startsWith(`${wantedPath}#`))?.address;
  if (address === undefined)
    throw new ProblemError({
      code: 'wrong-use',
      message: `No address is written down for ${dataset}. rootmap editions lists those that have one.`,
    });
  const came = await fetched(call, from, address);
  const wanted = all.filter((r) => r.address === address);
  const plan = await planTakeEdition(scope, wanted, came.unpacked, came.origin, who());
  const isApplied = call.flags['apply'] === true && plan.change !== null;
  const { change, copies } = plan;
  if (isApplied) await withJournal(async (options) => void (await runChange(change!, { ...options, stageAll: stageEdition(copies) })));
  came.forget();
  return {
    json: { ...heads(scope), address, applied: isApplied, datasets: plan.datasets },
    text: [
      ...plan.datasets.map((d) =>
        d.now === null
          ? `${d.name}: nothing that came is its newer edition`
          : d.isSame
            ? `${d.name}: the same, byte for byte`
            : `${d.name}: ${d.before.records ?? '?'} records, now ${d.now.records ?? '?'}${d.fields.gone.length > 0 ? `; fields that went: ${d.fields.gone.join(', ')}` : ''}`,
      ),
      isApplied
        ? 'taken over; the journal takes it back'
        : plan.change
          ? 'nothing is changed yet: --apply takes it over'
          : 'nothing to take over',
    ],
    status: 0,
  };
}

const PUT_WORDS: Readonly<Record<PutBackRow['state'], string>> = {
  'as-it-was': 'the same, by its checksums',
  'not-told': 'nobody wrote down what it was, so nothing tells whether it is the same',
  other: 'another edition than the one that stayed out',
  left: 'another edition than the one that stayed out; --other takes it all the same',
  'not-in-it': 'what stands at the address has no such dataset',
  failed: 'could not be fetched',
};

/** What stayed out of a bundle is fetched from its publisher, each address by itself. */
async function putBack(call: Call, scope: RootedScope, from: FromHere): Promise<Answer> {
  const missing = stayedOut(scope);
  const byAddress = new Map<string, StayedOut[]>();
  for (const one of missing) byAddress.set(one.address, [...(byAddress.get(one.address) ?? []), one]);
  const rows: PutBackRow[] = [];
  const isApplied = call.flags['apply'] === true;
  for (const [address, wanted] of byAddress)
    try {
      const came = await fetched(call, from, address);
      const takesOther = call.flags['other'] === true;
      const { change, copies, rows: told } = await planPutBack(scope, wanted, came.unpacked, came.origin, { takesOther, who: who() });
      if (isApplied && change)
        await withJournal(async (options) => void (await runChange(change, { ...options, stageAll: stageEdition(copies) })));
      came.forget();
      rows.push(...told);
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      for (const { path } of wanted)
        rows.push({ path: pathFrom(scope.root, path), address, state: 'failed', why: error.message, missing: [] });
    }
  const bad = rows.filter((r) => r.state === 'failed' || r.state === 'left' || r.state === 'not-in-it').length;
  return {
    json: { ...heads(scope), applied: isApplied, missing: rows },
    text: [
      ...rows.flatMap((r) => [
        `${r.path}: ${r.why ?? PUT_WORDS[r.state]}`,
        ...(r.missing.length > 0 && r.state !== 'not-in-it' ? [`  did not come with it: ${r.missing.join(', ')}`] : []),
      ]),
      rows.length === 0
        ? 'nothing that is written down with an address is missing'
        : `${many(rows.length - bad, 'dataset')} ${isApplied ? 'put where it belongs' : 'would be put where it belongs: --apply does it'}, ${bad} not`,
    ],
    status: bad > 0 ? 1 : 0,
  };
}
