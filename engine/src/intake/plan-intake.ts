import { existsSync, statfsSync } from 'node:fs';
import {
  arrange,
  groupFiles,
  isLitter,
  parseDataPackage,
  ProblemError,
  resourceName,
  splitName,
  withOrigin,
  type ArrangedFile,
  type FileEntry,
  type NamingRules,
  type Origin,
  type ToldOrigin,
  type Resource,
  joined,
  folderOf,
} from '@rootmap/core';
import { basename, dirname, join, relative } from '../disk/native-path.js';
import { MOST_NOTE_BYTES, readFileSync } from '../disk/files.js';
import type { PlannedChange, PlannedStep, PlannedWrite } from '../changes/change.js';
import { trashRootOf } from '../move/plan-move.js';
import { RECORDS } from '../move/records.js';
import { nearestFolder } from '../move/one-disk.js';
import { amongOriginals, isRooted, type Scope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import { missingFolders } from '../changes/missing-folders.js';

export interface IntakeOrder {
  /** The archive, or the folder that dropped files stand in. */
  readonly source: string;
  readonly name: string;
  /** What is in it. */
  readonly entries: readonly FileEntry[];
  /** Main paths of what is wanted; null: everything. */
  readonly wanted: readonly string[] | null;
  /** Real folder that it goes into; it need not be there. */
  readonly target: string;
  readonly naming: NamingRules | null;
  readonly origin: Origin;
  /** What datasets tell of their origin themselves, by main path: it holds before what is told of all. */
  readonly told: Readonly<Record<string, ToldOrigin>>;
  /** The archive goes to the trash; only where it stands in a place. */
  readonly removeArchive: boolean;
}

export interface IntakePlan {
  readonly files: readonly ArrangedFile[];
  readonly bytes: number;
  readonly isOriginal: boolean;
  /** The target is made as a whole and takes its place by one rename. */
  readonly isWhole: boolean;
  readonly target: string;
  /** Origin records, by path below the target. */
  readonly records: ReadonlyMap<string, string>;
  readonly change: PlannedChange;
}

/** What goes where, and the change that brings it there; nothing is written yet. */
export function planIntake(order: IntakeOrder, scope: Scope, roots: readonly string[], who: string): IntakePlan {
  const { target } = order;
  const chosen = chosenOf(order);
  if (chosen.length === 0)
    throw new ProblemError({ code: 'wrong-use', message: `Nothing in ${order.name} is chosen. Tick what is wanted.` });
  const isWhole = !existsSync(target);
  const taken = isWhole ? [] : listFiles(target, { confinedTo: target }).files.map((f) => f.path);
  const files = arrange(chosen, { archive: splitName(order.name).stem, taken, naming: order.naming });
  const bytes = chosen.reduce((sum, f) => sum + f.bytes, 0);
  checkSpace(target, bytes);
  const records = recordsFor(files, chosen, order, isWhole);
  const isOriginal = isRooted(scope) && amongOriginals(scope, target);
  const installs: PlannedStep[] = isWhole
    ? [{ kind: 'install', path: target }]
    : files.map((f) => ({ kind: 'install', path: join(target, f.to) }) as const);
  const above = isWhole ? [dirname(target)] : files.map((f) => dirname(join(target, f.to)));
  // A record that is there is written to; a new one is staged like the data, so that it can tell the hashes of what came.
  const writes = isWhole ? [] : recordWrites(records, target).filter((w) => w.before !== null);
  const newRecords = isWhole ? [] : [...records.keys()].filter((path) => !existsSync(join(target, path)));
  const steps: PlannedStep[] = [
    ...writes,
    ...missingFolders(above).map((path) => ({ kind: 'folder', path }) as const),
    ...installs,
    ...newRecords.map((path) => ({ kind: 'install', path: join(target, path) }) as const),
    ...(order.removeArchive
      ? [
          {
            kind: 'trash' as const,
            path: order.source,
            hash: null,
            trashOf: trashRootOf(
              order.source,
              roots.map((root) => ({ root })),
              scope.places,
            ),
          },
        ]
      : []),
  ];
  const title = `Bring in ${order.name}`;
  return { files, bytes, isOriginal, isWhole, target, records, change: { title, kind: 'intake', root: scope.root ?? target, who, steps } };
}

function chosenOf({ entries, wanted }: IntakeOrder): FileEntry[] {
  const kept = entries.filter((e) => !isLitter(e.path));
  if (wanted === null) return kept;
  const mains = new Set(wanted.map((w) => w.replace(/#[^/]*$/, '')));
  const { groups } = groupFiles(kept);
  const inGroups = new Set<string>();
  const chosen = new Set<string>();
  for (const g of groups)
    for (const f of [g.main, ...g.companions]) {
      inGroups.add(f.path);
      if (mains.has(g.path)) chosen.add(f.path);
    }
  // Files that are no thing of their own come along: nobody was asked about them.
  return kept.filter((e) => chosen.has(e.path) || mains.has(e.path) || !inGroups.has(e.path));
}

function checkSpace(target: string, bytes: number): void {
  const disk = statfsSync(nearestFolder(target));
  if (disk.bavail * disk.bsize < bytes) throw new ProblemError({ code: 'no-space', path: target });
}

/** One record a folder with data, beside it; what a record says already stays. */
function recordsFor(
  files: readonly ArrangedFile[],
  entries: readonly FileEntry[],
  order: IntakeOrder,
  isWhole: boolean,
): Map<string, string> {
  const sizes = new Map(entries.map((e) => [e.path, e.bytes]));
  const from = new Map(files.map((f) => [f.to, f.from]));
  const arrived = files.map((f): FileEntry => ({ path: f.to, bytes: sizes.get(f.from) ?? 0, modifiedMs: 0 }));
  const byFolder = new Map<string, Resource[]>();
  /** Notes are named as seen from the folder of the record; one that was left out, as it stood in the archive. */
  const passagesFrom = (folder: string): Pick<Origin, 'passages'> => {
    const at = join(order.target, folder);
    const noteFrom = (note: string): string => {
      const to = files.find((f) => f.from === note)?.to;
      return to === undefined ? note : relative(at, join(order.target, to));
    };
    const { passages } = order.origin;
    return passages ? { passages: passages.map((p) => ({ ...p, note: noteFrom(p.note) })) } : {};
  };
  for (const g of groupFiles(arrived).groups) {
    if (g.format === 'document' || g.format === 'opaque') continue;
    const folder = folderOf(g.path);
    const own = [g.main, ...g.companions];
    const resource = withOrigin(
      {
        name: resourceName(g.path),
        path: basename(g.path),
        format: g.format,
        bytes: own.reduce((sum, f) => sum + f.bytes, 0),
        'rootmap:files': own.map((f) => basename(f.path)),
      },
      { ...order.origin, ...order.told[from.get(g.main.path) ?? ''], ...passagesFrom(folder) },
    );
    byFolder.set(folder, [...(byFolder.get(folder) ?? []), resource]);
  }
  const records = new Map<string, string>();
  for (const [folder, resources] of byFolder) {
    const path = folder === '' ? RECORDS : joined([folder, RECORDS]);
    if (files.some((f) => f.to === path)) continue; // the archive brings its own
    const before = isWhole ? null : readRecord(join(order.target, path));
    if (before === 'damaged') continue;
    records.set(path, `${JSON.stringify({ ...before, resources: [...(before?.resources ?? []), ...resources] }, null, 2)}\n`);
  }
  return records;
}

function readRecord(path: string) {
  if (!existsSync(path)) return null;
  return parseDataPackage(readFileSync(path, 'utf8', MOST_NOTE_BYTES)) ?? 'damaged';
}

const recordWrites = (records: ReadonlyMap<string, string>, target: string): PlannedWrite[] =>
  [...records].map(([path, text]) => {
    const file = join(target, path);
    return {
      kind: 'write',
      path: file,
      before: existsSync(file) ? readFileSync(file, null, MOST_NOTE_BYTES) : null,
      after: Buffer.from(text, 'utf8'),
    };
  });
