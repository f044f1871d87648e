import { byCodePoint } from '@rootmap/core';
import type { ProjectSummary } from '@rootmap/core/contract';

const ORDERS = ['opened', 'changed', 'title', 'place', 'broken', 'size'] as const;
/** What the list is sorted by: the latest, the first by its letters, the most to mend, or the largest first. */
export type Order = (typeof ORDERS)[number];
export const isOrder = (text: string): text is Order => (ORDERS as readonly string[]).includes(text);

/** Layers that can be mended. */
export const brokenIn = (totals: NonNullable<ProjectSummary['totals']>): number =>
  totals.adrift + totals.different + totals.incomplete + totals.unreadable;

const letters = new Intl.Collator();
const byTitle = (a: ProjectSummary, b: ProjectSummary): number => letters.compare(a.title, b.title) || byCodePoint(a.path, b.path);

const BY: Readonly<Record<Order, (a: ProjectSummary, b: ProjectSummary) => number>> = {
  opened: (a, b) => b.openedMs - a.openedMs,
  changed: (a, b) => (b.changedMs ?? -1) - (a.changedMs ?? -1),
  title: byTitle,
  place: (a, b) => letters.compare(a.place, b.place),
  broken: (a, b) => (b.totals ? brokenIn(b.totals) : -1) - (a.totals ? brokenIn(a.totals) : -1),
  size: (a, b) => (b.bytes ?? -1) - (a.bytes ?? -1),
};

export const inOrder = (projects: readonly ProjectSummary[], order: Order): ProjectSummary[] =>
  [...projects].sort((a, b) => BY[order](a, b) || byTitle(a, b));

/** Every word stands in the title, the place or the path. */
export function matches({ title, place, path }: ProjectSummary, text: string): boolean {
  const all = `${title}\n${place}\n${path}`.toLowerCase();
  return text
    .toLowerCase()
    .split(/\s+/)
    .every((word) => all.includes(word));
}
