import type { DataSource } from 'typeorm';
import { PLAIN_RASTER } from '@rootmap/core';
import type { EditorView, MapDraft, MapDocView } from '@rootmap/core/contract';
import { draftTable } from '../store/tables.js';

/** An editor that has not been heard of for so long is gone: it was closed, or it crashed. */
const GONE_AFTER_MS = 15_000;
const KEPT_FOR_MS = 30 * 24 * 3600_000;

/** Unsaved work on maps, kept while it is done, so that a crash loses at most the last seconds; and who has a map open. */
export class DraftRepository {
  constructor(private readonly store: DataSource) {}

  private get rows() {
    return this.store.manager;
  }

  /** Keeps the draft of an editor; null: it has the map open, with nothing unsaved. */
  async keep(root: string, path: string, editor: string, who: string, base: string, draft: MapDraft | null): Promise<void> {
    const now = Date.now();
    const before = await this.rows.findOneBy(draftTable, { editor, root, path });
    const content = draft === null ? null : JSON.stringify(draft);
    const savedMs = before && before.content === content ? before.savedMs : now;
    await this.rows.upsert(draftTable, { editor, root, path, who, base, content, savedMs, beatMs: now }, ['editor', 'root', 'path']);
  }

  async others(root: string, path: string, editor: string): Promise<EditorView[]> {
    const rows = await this.rows.findBy(draftTable, { root, path });
    return rows.filter((r) => r.editor !== editor && isHere(r.beatMs)).map((r) => ({ who: r.who, hasChanges: r.content !== null }));
  }

  /** Unsaved work that nobody has open any more, or that this editor had before it was loaded again. */
  async kept(root: string, path: string, editor: string): Promise<MapDocView['kept']> {
    const rows = (await this.rows.findBy(draftTable, { root, path })).filter(
      (r) => r.content !== null && (r.editor === editor || !isHere(r.beatMs)),
    );
    const newest = rows.sort((a, b) => Number(b.editor === editor) - Number(a.editor === editor) || b.savedMs - a.savedMs)[0];
    if (!newest || Date.now() - newest.savedMs > KEPT_FOR_MS) return null;
    const { base, savedMs, who } = newest;
    return { draft: withNewMembers(JSON.parse(newest.content!) as MapDraft), base, savedMs, who, isOwn: newest.editor === editor };
  }

  /** Paths of maps, from the root, that somebody changed and did not save. */
  async unsaved(root: string): Promise<string[]> {
    const rows = await this.rows.findBy(draftTable, { root });
    return [...new Set(rows.filter((r) => r.content !== null && Date.now() - r.savedMs < KEPT_FOR_MS).map((r) => r.path))];
  }

  /** Saved or dropped: what this editor kept goes, and what others left behind. */
  async drop(root: string, path: string, editor: string): Promise<void> {
    for (const r of await this.rows.findBy(draftTable, { root, path }))
      if (r.editor === editor || !isHere(r.beatMs)) await this.rows.delete(draftTable, { editor: r.editor, root, path });
  }
}

const isHere = (beatMs: number): boolean => Date.now() - beatMs < GONE_AFTER_MS;

/** A draft that was kept by a version before knows nothing of what maps and looks have since. */
const withNewMembers = (draft: MapDraft): MapDraft => ({
  ...draft,
  views: (draft as Partial<MapDraft>).views ?? [],
  layers: draft.layers.map((l) => (l.look?.kind === 'raster' ? { ...l, look: { ...PLAIN_RASTER, ...l.look } } : l)),
});
