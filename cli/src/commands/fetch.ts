import { createHash } from 'node:crypto';
import { EMPTY_ORIGIN, ProblemError, withoutSecrets, type Progress } from '@rootmap/core';
import {
  basename,
  dataFolder,
  dirname,
  fetchFile,
  join,
  openSource,
  pastedAddress,
  planIntake,
  resolve,
  runChange,
  signInOf,
  unpackInto,
} from '@rootmap/engine';
import type { Command } from '../command.js';
import { signInFrom, SIGN_IN_FLAGS, withDesk } from '../desk.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { many } from '../text.js';

const ARCHIVE = /\.(zip|kmz|tar\.gz|tgz|tar)$/i;

export const fetchData: Command = {
  usage: 'fetch ADDRESS --into FOLDER [--publisher NAME] [--licence NAME]',
  summary: 'Fetches a file by its address, unpacks it into a new or empty folder of a project, and writes down where it is from.',
  examples: ["fetch https://data.example/beds.zip --into originals/beds --publisher 'Harbour Office'"],
  flags: { into: { type: 'string' }, publisher: { type: 'string' }, licence: { type: 'string' }, ...SIGN_IN_FLAGS },
  paths: [1, 1],
  run: async (call) => {
    const { into, publisher, licence } = call.flags;
    if (typeof into !== 'string') throw new ProblemError({ code: 'wrong-use', message: 'Say where to: --into FOLDER.' });
    const target = resolve(call.cwd, into);
    const scope = scopeOf(call, dirname(target));
    const whole = pastedAddress(call.words[0]!);
    const address = withoutSecrets(whole);
    return withDesk(scope, async ({ desk, wire }) => {
      const given = (await signInFrom(call)) ?? signInOf(whole);
      if (given) await desk.signIn(address, given);
      const folder = join(dataFolder(), 'fetching', createHash('sha256').update(address).digest('hex').slice(0, 32));
      const told = ({ done, of }: Progress): void => call.progress(`${done}${of > 0 ? ` of ${of}` : ''} bytes`);
      const { path, name, resumedAt, edition } = await fetchFile(
        wire,
        { address, folder, signIn: given ?? (await desk.signInFor(address)) },
        told,
      );
      const isArchive = ARCHIVE.test(name);
      let files: readonly string[];
      const archive = await openSource(isArchive ? path : dirname(path), !isArchive);
      try {
        const plan = planIntake(
          {
            source: path,
            name,
            entries: archive.entries,
            wanted: null,
            target,
            naming: scope.project?.naming ?? null,
            origin: {
              ...EMPTY_ORIGIN,
              publisher: typeof publisher === 'string' ? publisher : '',
              licence: typeof licence === 'string' ? licence : '',
              address,
              fetched: new Date().toISOString().slice(0, 10),
              edition,
            },
            told: {},
            removeArchive: false,
          },
          scope,
          [],
          who(),
        );
        const stageAll = unpackInto(plan, archive, () => undefined, new AbortController().signal);
        await withJournal(async (options) => void (await runChange(plan.change, { ...options, stageAll })));
        files = plan.files.map((f) => f.to);
      } finally {
        archive.close();
      }
      desk.forget(folder); // only once nothing holds it open any more
      return {
        json: { ...heads(scope), address, name, ...edition, resumedAt, folder: target, files },
        text: [
          `${basename(path)}: ${edition.bytes} bytes${resumedAt > 0 ? `, the first ${resumedAt} from an earlier try` : ''}`,
          `${many(files.length, 'file')} in ${target}`,
        ],
        status: 0,
      };
    });
  },
};
