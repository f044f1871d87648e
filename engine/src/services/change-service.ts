import { absoluteAddress, locateHere, printAddress, ProblemError } from '@rootmap/core';
import type {
  AppliedView,
  ChangedFilesView,
  ChangeView,
  DeletionView,
  JournalQuery,
  LostLayerView,
  StaysView,
  TrashedView,
  UndoneView,
  UndoPreview,
  UndoRequest,
} from '@rootmap/core/contract';
import { selfAndAbove } from '../changes/path-steps.js';
import { toAddress } from '../disk/native-path.js';
import type { PlannedChange, PlannedStep } from '../changes/change.js';
import type { ComesBack, Kept, UndoPlan } from '../changes/plan-undo.js';
import { runChange, type RunOptions } from '../changes/run-change.js';
import { planUndoing, undoChange, whyKept } from '../changes/undo-change.js';
import { projectKey } from '../project/project-key.js';
import type { MissedMoveRepository } from '../repositories/missed-move-repository.js';
import type { SqlJournal } from '../store/sql-journal.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { ChangePort, Ports } from './ports.js';
import type { ProjectService } from './project-service.js';
import type { Recoveries } from './recoveries.js';
import { viewChange, viewStep } from './view-change.js';

const MOST_LISTED = 500;
const FILES_IN_LIST = 3;
const MOST_FILES = 2000;
const MOST_NAMED = 3;
/** More, and the maps are judged by two processes. */
const STEPS_FOR_ONE = 200;
/** A folder that stays because something is in it takes nothing from what comes back. */
const IS_OF_FOLDER: ReadonlySet<Kept['why']> = new Set(['not-empty', 'holds-trash']);

/** Each file once, with what happens to it last. */
const backOf = (parts: readonly UndoPlan[]): ComesBack[] => [...new Map(parts.flatMap((p) => p.back).map((b) => [b.path, b])).values()];

type ChangePorts = Pick<Ports, 'pool' | 'publish' | 'places' | 'known'> & {
  readonly journal: SqlJournal;
  readonly projects: ProjectService;
  readonly recoveries: Pick<Recoveries, 'isWaiting'>;
  readonly missed: Pick<MissedMoveRepository, 'noteSteps'>;
};

/** Changes on disk: carried out, listed, taken back. */
export class ChangeService implements ChangePort {
  constructor(private readonly ports: ChangePorts) {}

  get run(): RunOptions {
    return { journal: this.ports.journal, program: 'Root Map' };
  }

  /** Carries a planned change out and tells everybody. */
  async apply(key: string, base: TaskBase, change: PlannedChange | null, applied: number, run = this.run): Promise<AppliedView> {
    const done = change && (await runChange(change, run));
    if (done) await this.ports.projects.follow(done);
    const now = await this.ports.projects.base(key, base.who);
    this.ports.projects.changed(now.alone === undefined ? projectKey(now.root) : key);
    this.ports.publish({ type: 'journal' });
    return { change: done && viewChange(done), applied, left: await this.ports.pool.run('left', now) };
  }

  /** Real paths by the drive names of their places, as people know them; the places are looked at once. */
  private shownNow(): (path: string) => string {
    const places = this.ports.places.opened();
    return (path) => {
      const at = locateHere(toAddress(path), places);
      return at ? printAddress(absoluteAddress(at, places)) : path;
    };
  }

  /** The latest first. */
  async list({ project, kind, text }: JournalQuery): Promise<ChangeView[]> {
    const root = project === null ? undefined : (await this.ports.projects.base(project)).root;
    const changes = await this.ports.journal.list({ root, kind: kind ?? undefined, text, limit: MOST_LISTED });
    const undoers = await this.ports.journal.undoersOf(changes.filter((c) => c.state === 'undone' && c.undoes === null).map((c) => c.id));
    const shown = this.shownNow();
    return changes.map((c) => ({
      ...viewChange(c, FILES_IN_LIST, undoers.get(c.id) ?? null),
      files: c.steps.slice(0, FILES_IN_LIST).map((step) => shown(step.path)),
      isWaiting: this.ports.recoveries.isWaiting(c.id),
    }));
  }

  /** What a change did to each file. */
  async files(id: string): Promise<ChangedFilesView> {
    const change = await this.ports.journal.get(id);
    if (!change) throw new ProblemError({ code: 'not-found', what: 'change', id });
    const shown = this.shownNow();
    return { files: change.steps.slice(0, MOST_FILES).map((step) => viewStep(step, shown)), count: change.steps.length };
  }

  /** What is in the trash of a project, the latest first, and what brings it back. */
  async trash(key: string): Promise<TrashedView[]> {
    const trashed = await this.ports.pool.run('trash', await this.ports.projects.base(key));
    const changes = new Map((await this.ports.journal.some(trashed.map((t) => t.change))).map((c) => [c.id, c]));
    const shown = this.shownNow();
    const views = trashed.map(({ change: id, paths, bytes }): TrashedView => {
      const change = changes.get(id);
      const stood = new Map(change?.steps.flatMap((s) => (s.kind === 'trash' ? [[s.temp, s.path]] : [])) ?? []);
      return {
        id,
        title: change?.title ?? null,
        createdMs: change?.createdMs ?? null,
        paths: paths.slice(0, FILES_IN_LIST).map((p) => shown(stood.get(p) ?? p)),
        count: paths.length,
        bytes,
        restore: change?.state === 'done' ? id : null,
      };
    });
    return views.sort((a, b) => (b.createdMs ?? 0) - (a.createdMs ?? 0));
  }

  /** What undoing a change would do now: files, layers, and later changes that stand on it. Reads only. */
  async previewUndo(id: string): Promise<UndoPreview> {
    const { title, change, root, parts, digest } = await planUndoing(id, this.ports.journal);
    const back = backOf(parts);
    const kept = this.keptOf(parts.flatMap((p) => p.kept));
    const shown = this.shownNow();
    return {
      title,
      isRedo: change.undoes !== null,
      digest,
      back: back.slice(0, MOST_FILES).map((b) => ({ ...b, path: shown(b.path) })),
      backCount: back.length,
      kept: kept.slice(0, MOST_FILES),
      keptCount: kept.length,
      along: parts.slice(0, -1).map(({ change: { id, title, createdMs } }) => ({ id, title, createdMs })),
      lost: await this.lostAfter(
        root,
        parts.flatMap((p) => p.steps),
      ),
    };
  }

  /** Of all projects that are there, the one of the change first; null: that one is not. */
  private async lostAfter(root: string, steps: readonly PlannedStep[]): Promise<UndoPreview['lost']> {
    const rows = await this.ports.known.rows();
    const bare = steps.map((s) => (s.kind === 'write' ? { ...s, before: null } : s)); // what would be there matters, not what is
    const lostOf = async (of: string): Promise<LostLayerView[] | null> => {
      try {
        const base = await this.ports.projects.base(projectKey(of));
        const parts = steps.length > STEPS_FOR_ONE ? 2 : 1;
        const lost = (
          await Promise.all(
            Array.from({ length: parts }, (_, part) => this.ports.pool.run('undo-lost', { ...base, steps: bare, part, parts })),
          )
        ).flat();
        const project = of === root ? null : (rows.find((r) => r.root === of)?.title ?? of);
        return lost.map((l) => ({ ...l, project }));
      } catch (error) {
        if (error instanceof ProblemError) return null; // no project is there, or not now
        throw error;
      }
    };
    const [own, ...others] = await Promise.all([root, ...rows.map((r) => r.root).filter((r) => r !== root)].map(lostOf));
    const elsewhere = others.flatMap((lost) => lost ?? []);
    return own ? [...own, ...elsewhere] : elsewhere.length > 0 ? elsewhere : null;
  }

  /** Takes a change back, as it was shown; where nothing was shown, only if all of it comes back. */
  async undo(id: string, who: string, order: UndoRequest): Promise<UndoneView> {
    if (order.shown === null) await this.refusePart(id);
    const undone = await undoChange(id, who, this.run, order);
    for (const { by } of undone.parts) {
      await this.ports.projects.follow(by);
      await this.ports.missed.noteSteps(by.steps);
    }
    this.ports.projects.allChanged();
    this.ports.publish({ type: 'journal' });
    return {
      change: undone.change && viewChange(undone.change),
      isRedo: undone.parts.at(-1)?.change.undoes != null,
      changes: undone.parts.length,
      back: backOf(undone.parts).length,
      kept: this.keptOf(undone.kept),
    };
  }

  private keptOf(kept: readonly Kept[]): StaysView[] {
    const shown = this.shownNow();
    return kept.map(({ path, why }) => ({ path: shown(path), why: whyKept(why) }));
  }

  private async refusePart(id: string): Promise<void> {
    const { change, parts } = await planUndoing(id, this.ports.journal);
    const kept = parts.flatMap((p) => p.kept).filter((k) => !IS_OF_FOLDER.has(k.why));
    if (kept.length === 0) return;
    const named = this.keptOf(kept.slice(0, MOST_NAMED)).map((k) => `${k.path} (${k.why})`);
    const more = kept.length > MOST_NAMED ? ` and ${kept.length - MOST_NAMED} more` : '';
    throw new ProblemError({
      code: 'cannot-undo',
      path: change.title,
      why: `not all of it can come back: ${named.join(', ')}${more}. Look at what its undo would do first`,
    });
  }

  /** Who deleted what stood at a real path, by itself or with a folder above it: an undo brings it back. */
  async deletionOf(path: string): Promise<DeletionView | null> {
    const above = [...selfAndAbove(path)];
    const deletions = await this.ports.journal.deletionsOf(above);
    const nearest = above.find((at) => deletions.has(at));
    const change = nearest === undefined ? null : deletions.get(nearest);
    return change ? { id: change.id, title: change.title, ms: change.createdMs } : null;
  }
}
