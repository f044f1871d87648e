import { EXPLAINED, looseName, ProblemError } from '@rootmap/core';
import { join, basename } from '../disk/native-path.js';
import { ARCHIVE_ENDING } from '../archive/archive.js';
import { openArchive } from '../archive/open-archive.js';
import { confinementOf } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import type { MendWork } from './plan-mend.js';

/** More would take longer than a person waits; those that come first are looked into. */
const MOST_ARCHIVES = 200;
const NO_DEEPER = Infinity;

export interface Packed {
  readonly archive: string;
  readonly member: string;
}

/** For layers that nothing explains well: archives in the folders searched that hold something of their data's name, by layer key. */
export async function findPacked(work: MendWork): Promise<Map<string, Packed[]>> {
  const wanted = new Map<string, string[]>();
  work.broken.forEach(({ broken }, i) => {
    const name = broken.recorded?.segments.at(-1);
    if (name === undefined || broken.isHere !== null || EXPLAINED.includes(work.proposals[i]!.verdict)) return;
    const key = looseName(name);
    wanted.set(key, [...(wanted.get(key) ?? []), broken.key]);
  });
  const found = new Map<string, Packed[]>();
  if (wanted.size === 0) return found;
  for (const archive of archivesIn(work).slice(0, MOST_ARCHIVES))
    for (const member of await membersOf(archive))
      for (const layer of wanted.get(looseName(basename(member))) ?? [])
        if (!found.get(layer)?.some((p) => p.archive === archive)) found.set(layer, [...(found.get(layer) ?? []), { archive, member }]);
  return found;
}

function archivesIn({ view, scope }: MendWork): string[] {
  const closely = (names: readonly string[]): Set<string> => new Set(names.filter((n) => ARCHIVE_ENDING.test(n)));
  return view.searched.folders.flatMap((folder) =>
    listFiles(folder, { confinedTo: confinementOf(folder, scope.places), closely })
      .files.filter((f) => ARCHIVE_ENDING.test(f.path))
      .map((f) => join(folder, f.path)),
  );
}

/** What cannot be opened holds nothing that could be unpacked. */
async function membersOf(path: string): Promise<string[]> {
  try {
    const archive = await openArchive(path, NO_DEEPER);
    const members = archive.entries.map((e) => e.path);
    archive.close();
    return members;
  } catch (error) {
    if (error instanceof ProblemError) return [];
    throw error;
  }
}
