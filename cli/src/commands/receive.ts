import { ProblemError, isInOrder } from '@rootmap/core';
import {
  basename,
  editionReceived,
  findScope,
  lookAtArrival,
  lookIntoBundle,
  manifestHere,
  planTakeOver,
  receive as receiveBundle,
  resolve,
  rooted,
  takeOverEdition,
  type Arrived,
} from '@rootmap/engine';
import type { Answer, Call, Command } from '../command.js';
import { withJournal } from '../journal.js';
import { who } from '../scope.js';
import { many } from '../text.js';

export const receive: Command = {
  usage: 'receive FILE.zip|FOLDER --into FOLDER [--set-aside] · … --over FOLDER [--theirs] [--removed] · … --look',
  summary: 'Checks a bundle and unpacks it into an empty or new folder, or takes a newer edition over into the project that is there.',
  examples: ['receive moorings.zip --into moorings', 'receive moorings.zip --over moorings', 'receive moorings.zip --look'],
  flags: {
    into: { type: 'string' },
    over: { type: 'string' },
    theirs: { type: 'boolean' },
    removed: { type: 'boolean' },
    look: { type: 'boolean' },
    'set-aside': { type: 'boolean' },
  },
  paths: [1, 1],
  run: async (call) => {
    const { look, into, over } = call.flags;
    if (look === true) return lookInto(call.paths[0]!);
    if (typeof over === 'string') return takeOver(call, resolve(call.cwd, over));
    if (typeof into !== 'string')
      throw new ProblemError({ code: 'wrong-use', message: 'Say where to: --into FOLDER (an empty or new one), or --over FOLDER.' });
    const [file] = call.paths;
    const result = await withJournal(async (options, editions) => {
      const setAside = call.flags['set-aside'] === true;
      const target = resolve(call.cwd, into);
      const told = (p: { item: string }): void => call.progress(p.item);
      const received = await receiveBundle(file!, target, who(), call.places, options, told, undefined, { setAside });
      if (received.files > 0 && received.findings.length === 0)
        await editions.keep(received.root, basename(file!), editionReceived(received.manifest));
      return received;
    });
    const { manifest: _, ...told } = result;
    return answerOf(told, `${many(result.files, 'file')} received into ${result.root}`);
  },
};

function answerOf(result: Arrived & { readonly files: number }, said: string): Answer {
  const bad = result.layers.filter((l) => !isInOrder(l.state));
  return {
    json: result,
    text: [
      ...result.findings.map((f) => `${f.path}: ${f.problem}`),
      `${said}; ${many(result.layers.length, 'layer')}, ${bad.length} not sound`,
      ...(result.stayedOut > 0
        ? [`${many(result.stayedOut, 'dataset')} stayed out and can be fetched: rootmap editions FOLDER --missing --apply`]
        : []),
    ],
    status: bad.length || result.findings.length ? 1 : 0,
  };
}

/** A newer edition takes the place of a project that is here, as one change. */
async function takeOver(call: Call, folder: string): Promise<Answer> {
  const scope = rooted(findScope(folder, { places: call.places }));
  const [file] = call.paths;
  const result = await withJournal(async (options, editions) => {
    const before = (await editions.of(scope.root))?.before ?? null;
    const order = { onConflict: call.flags['theirs'] === true ? 'theirs' : 'ours', removes: call.flags['removed'] === true } as const;
    const plan = await planTakeOver(scope, file!, before, order);
    const taken = await takeOverEdition(scope.root, file!, plan, who(), options, (p) => call.progress(p.item));
    const isWhole = taken.findings.length === 0;
    if (isWhole) await editions.keep(scope.root, basename(file!), { here: await manifestHere(scope), bundle: plan.incoming });
    const arrived = lookAtArrival(scope.root, call.places);
    const removed = isWhole ? plan.removed : [];
    return {
      root: scope.root,
      ...arrived,
      files: taken.put,
      bytes: taken.bytes,
      removed,
      left: plan.left,
      findings: [...taken.findings, ...arrived.findings],
    };
  });
  return answerOf(result, `${many(result.files, 'file')} taken over, ${many(result.removed.length, 'file')} put into the trash`);
}

/** What a bundle says of itself; nothing is unpacked. */
async function lookInto(file: string): Promise<Answer> {
  const found = await lookIntoBundle(file);
  const layers = found.maps.reduce((sum, m) => sum + m.layers, 0);
  return {
    json: { root: null, projectFile: null, ...found },
    text: [
      `${found.title}: ${many(found.files, 'file')}, ${found.bytes} bytes, ${many(found.maps.length, 'map')} with ${many(layers, 'layer')}`,
      ...(found.receipt ? [`sent by ${found.receipt.sentBy}, ${found.receipt.made}, as its receipt says`] : []),
      ...found.services.map((s) => `not carried: ${s.title} (${s.address})`),
      ...found.drives.map((d) => `still names ${d.name} in ${many(d.layers, 'layer')}`),
      ...found.findings.map((f) => `${f.path}: ${f.problem}`),
    ],
    status: found.findings.length > 0 ? 1 : 0,
  };
}
