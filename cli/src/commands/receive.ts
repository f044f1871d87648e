import { ProblemError } from '@rootmap/core';
import { lookIntoBundle, resolve, receive as receiveBundle } from '@rootmap/engine';
import type { Answer, Command } from '../command.js';
import { withJournal } from '../journal.js';
import { who } from '../scope.js';
import { many } from '../text.js';

export const receive: Command = {
  usage: 'receive FILE.zip|FOLDER --into FOLDER [--set-aside] · receive FILE.zip|FOLDER --look',
  summary: 'Checks a bundle and unpacks it; the folder, empty or new, becomes the root.',
  flags: { into: { type: 'string' }, look: { type: 'boolean' }, 'set-aside': { type: 'boolean' } },
  paths: [1, 1],
  run: async (call) => {
    if (call.flags['look'] === true) return look(call.paths[0]!);
    const into = call.flags['into'];
    if (typeof into !== 'string')
      throw new ProblemError({ code: 'wrong-use', message: 'Say where to: --into FOLDER (an empty or new one).' });
    const result = await withJournal((options) =>
      receiveBundle(call.paths[0]!, resolve(call.cwd, into), who(), call.places, options, (p) => call.progress(p.item), undefined, {
        setAside: call.flags['set-aside'] === true,
      }),
    );
    const bad = result.layers.filter((l) => l.state !== 'sound');
    return {
      json: result,
      text: [
        ...result.findings.map((f) => `${f.path}: ${f.problem}`),
        `${many(result.files, 'file')} received into ${result.root}; ${many(result.layers.length, 'layer')}, ${bad.length} not sound`,
      ],
      status: bad.length || result.findings.length ? 1 : 0,
    };
  },
};

/** What a bundle says of itself; nothing is unpacked. */
async function look(file: string): Promise<Answer> {
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
