import { pipeline } from 'node:stream/promises';
import type { RunOptions } from '../changes/run-change.js';
import { createReadStream, createWriteStream } from '../disk/files.js';
import type { Replaced } from './take-edition.js';

const READ_ONLY = 0o444;
const USUAL = 0o644;

/** Fills the staged paths with what was fetched. Originals are read-only before anybody sees them. */
export const stageEdition =
  (copies: readonly Replaced[]): NonNullable<RunOptions['stageAll']> =>
  async (installs) => {
    const staged = new Map(installs.map((i) => [i.target, i.staged]));
    for (const { from, to, isOriginal } of copies)
      await pipeline(createReadStream(from), createWriteStream(staged.get(to)!, { flags: 'wx', mode: isOriginal ? READ_ONLY : USUAL }));
  };
