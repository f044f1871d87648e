import { verifyBundle } from '@rootmap/engine';
import type { Command } from '../command.js';
import { many } from '../text.js';

export const verify: Command = {
  usage: 'verify FILE.zip|FOLDER',
  summary: 'Checks a bundle: its structure, and the checksum of every file.',
  examples: ['verify moorings.zip'],
  flags: {},
  paths: [1, 1],
  run: async (call) => {
    const result = await verifyBundle(call.paths[0]!);
    return {
      json: { root: null, projectFile: null, valid: result.valid, files: result.files, findings: result.findings },
      text: [
        ...result.findings.map((f) => `${f.path}: ${f.problem}`),
        `${result.valid ? 'valid' : 'not valid'}, ${many(result.files, 'file')}`,
      ],
      status: result.valid ? 0 : 1,
    };
  },
};
