import { createHash } from 'node:crypto';
import { ProblemError, type Progress } from '@rootmap/core';
import {
  dataFolder,
  dirname,
  fetchFile,
  join,
  lookForEdition,
  planTakeEdition,
  recordedAddresses,
  resolve,
  rooted,
  runChange,
  stageEdition,
  unpackWhole,
  type RootedScope,
  type ServiceDesk,
} from '@rootmap/engine';
import type { Answer, Call, Command } from '../command.js';
import { withDesk } from '../desk.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { columns, many } from '../text.js';

const ARCHIVE = /\.(zip|kmz|tar\.gz|tgz|tar)$/i;

export const editions: Command = {
  usage: 'editions FOLDER [--take DATASET [--apply]]',
  summary:
    'Asks whether newer editions stand at the addresses that data came from; --take fetches one, compares it, and lets it take its place.',
  flags: { take: { type: 'string' }, apply: { type: 'boolean' } },
  paths: [1, 1],
  run: async (call) => {
    const scope = rooted(scopeOf(call));
    return withDesk((desk) => (typeof call.flags['take'] === 'string' ? take(call, scope, desk, call.flags['take']) : look(scope, desk)));
  },
};

async function look(scope: RootedScope, desk: ServiceDesk): Promise<Answer> {
  const recorded = recordedAddresses(scope, []);
  const addresses = [...new Map(recorded.map((r) => [r.address, r])).values()];
  const looks = await Promise.all(
    addresses.map(async (r) => lookForEdition(desk.wire, r.address, r.origin.edition ?? null, await desk.signInFor(r.address))),
  );
  const all = looks.map((l) => ({ ...l, datasets: recorded.filter((r) => r.address === l.address).map((r) => r.id) }));
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

async function take(call: Call, scope: RootedScope, desk: ServiceDesk, dataset: string): Promise<Answer> {
  const wantedPath = resolve(call.cwd, dataset);
  const all = recordedAddresses(scope, []);
  const address = all.find((r) => r.id === wantedPath || r.id.startsWith(`${wantedPath}#`))?.address;
  if (address === undefined)
    throw new ProblemError({
      code: 'wrong-use',
      message: `No address is written down for ${dataset}. rootmap editions lists those that have one.`,
    });
  const folder = join(dataFolder(), 'fetching', createHash('sha256').update(address).digest('hex').slice(0, 32));
  const told = ({ done, of }: Progress): void => call.progress(`${done}${of > 0 ? ` of ${of}` : ''} bytes`);
  const { path, edition } = await fetchFile(desk.wire, { address, folder, signIn: await desk.signInFor(address) }, told);
  const unpacked = join(folder, 'unpacked');
  const isArchive = ARCHIVE.test(path);
  if (isArchive) await unpackWhole(path, unpacked);
  const origin = { fetched: new Date().toISOString().slice(0, 10), edition };
  const plan = await planTakeEdition(
    scope,
    all.filter((r) => r.address === address),
    isArchive ? unpacked : dirname(path),
    origin,
    who(),
  );
  const isApplied = call.flags['apply'] === true && plan.change !== null;
  const { change, copies } = plan;
  if (isApplied) await withJournal(async (options) => void (await runChange(change!, { ...options, stageAll: stageEdition(copies) })));
  desk.forget(folder);
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
