import { existsSync } from 'node:fs';
import { ProblemError } from '@rootmap/core';
import { datasetsOfFile, type FoundDataset } from '@rootmap/engine';

/** A file with all its tables, or one of them: FILE or FILE#TABLE. */
export function datasetsFrom(source: string): FoundDataset[] {
  const at = source.lastIndexOf('#');
  const path = existsSync(source) || at < 0 ? source : source.slice(0, at);
  if (!existsSync(path)) throw new ProblemError({ code: 'missing', path });
  const all = datasetsOfFile(path);
  const chosen = path === source ? all : all.filter((f) => f.dataset.table === source.slice(at + 1));
  if (chosen.length === 0)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${source} is no dataset that can be read. rootmap datasets lists those of a folder.`,
    });
  return chosen;
}

/** The one dataset of a file, or the one that is named. */
export function datasetFrom(source: string): FoundDataset {
  const [first, ...more] = datasetsFrom(source);
  if (more.length > 0) {
    const tables = [first!, ...more].map((f) => f.dataset.table);
    throw new ProblemError({ code: 'wrong-use', message: `${source} has several tables: name one with #, of ${tables.join(', ')}.` });
  }
  return first!;
}
