import { createHash } from 'node:crypto';
import { byCodePoint, groupBy, type FileEntry, type OnProgress } from '@rootmap/core';
import type { DuplicatesView } from '@rootmap/core/contract';
import { basename, join } from '../disk/native-path.js';
import { closeSync, openSync, readSync } from '../disk/files.js';
import { diskSentence } from '../disk/disk-problem.js';
import { confinementOf, type RootedScope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import { thingsOf } from './view-folders.js';

const PIECE_BYTES = 1 << 20;

/**
 * Things of a project that are equal byte for byte, whatever they are called: all their files are, ending by ending. Only
 * files of one size are read.
 */
export function findDuplicates(scope: RootedScope, onProgress: OnProgress = () => undefined): DuplicatesView {
  const root = scope.root;
  const { files } = listFiles(root, { confinedTo: confinementOf(root, scope.places) });
  const sizes = new Map(files.map((f) => [f.path, f]));
  const things = thingsOf(files, () => 0)
    .filter((t) => t.kind !== 'left-behind' && t.kind !== 'container' && t.bytes > 0)
    .map((t) => ({ ...t, parts: partsOf(t.path, t.files, sizes) }));
  const alike = [...groupBy(things, (t) => t.parts.map((p) => `${p.ending} ${p.file.bytes}`).join('\n')).values()].filter(
    (g) => g.length > 1,
  );
  const of = alike.flat().reduce((sum, t) => sum + t.parts.reduce((s, p) => s + p.file.bytes, 0), 0);
  const hasher = new Hasher(root, of, onProgress);
  const groups = alike.flatMap((things) =>
    [...groupBy(things, (t) => t.parts.map((p) => hasher.hash(p.file.path) ?? `unread ${p.file.path}`).join(' ')).values()]
      .filter((g) => g.length > 1)
      .map((g) => ({ bytes: g[0]!.bytes, paths: g.map((t) => t.path).sort(byCodePoint) })),
  );
  groups.sort((a, b) => b.bytes * (b.paths.length - 1) - a.bytes * (a.paths.length - 1));
  return { groups, files: alike.flat().length, hashedBytes: hasher.done };
}

/** A thing's files by what follows its own name, so that things of other names can be compared. */
function partsOf(path: string, names: readonly string[], sizes: ReadonlyMap<string, FileEntry>): { ending: string; file: FileEntry }[] {
  const folder = path.slice(0, path.length - basename(path).length);
  const stem = basename(path).replace(/\.[^.]*$/, '');
  return names
    .map((name) => ({ ending: name.startsWith(stem) ? name.slice(stem.length).toLowerCase() : name, file: sizes.get(folder + name)! }))
    .sort((a, b) => byCodePoint(a.ending, b.ending));
}

class Hasher {
  done = 0;
  private readonly piece = Buffer.allocUnsafe(PIECE_BYTES);
  constructor(
    private readonly root: string,
    private readonly of: number,
    private readonly onProgress: OnProgress,
  ) {}

  /** Null: it cannot be read, so nothing is claimed of it. */
  hash(path: string): string | null {
    const hash = createHash('sha256');
    try {
      const fd = openSync(join(this.root, path), 'r');
      try {
        for (;;) {
          const read = readSync(fd, this.piece, 0, PIECE_BYTES, null);
          if (read === 0) return hash.digest('hex');
          hash.update(read === PIECE_BYTES ? this.piece : this.piece.subarray(0, read));
          this.done += read;
          this.onProgress({ done: this.done, of: this.of, unit: 'bytes', item: path });
        }
      } finally {
        closeSync(fd);
      }
    } catch (error) {
      if (diskSentence(error) === null) throw error;
      return null;
    }
  }
}
