import { ProblemError } from '@rootmap/core';
import { resolve, receive as receiveBundle } from '@rootmap/engine';
import type { Command } from '../command.js';
import { withJournal } from '../journal.js';
import { who } from '../scope.js';
import { many } from '../text.js';

export const receive: Command = {
  usage: 'receive FILE.zip --into FOLDER',
  summary: 'Checks a bundle and unpacks it; the folder, empty or new, becomes the root.',
  flags: { into: { type: 'string' } },
  paths: [1, 1],
  run: async (call) => {
    const into = call.flags['into'];
    if (typeof into !== 'string')
      throw new ProblemError({ code: 'wrong-use', message: 'Say where to: --into FOLDER (an empty or new one).' });
    const result = await withJournal((options) =>
      receiveBundle(call.paths[0]!, resolve(call.cwd, into), who(), call.places, options, (p) => call.progress(p.item)),
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
