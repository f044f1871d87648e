import { GRIDS, NOTE_PLACES, PAPERS, type PageNote } from '@rootmap/core';
import { keptList, withNamed } from '../../parts/kept-list.js';
import { RESOLUTIONS, type Wish } from './page-wish.js';

/** What of a page is the same for other maps. */
export interface Layout extends Pick<Wish, 'paper' | 'isWide' | 'dpi' | 'format' | 'grid'> {
  readonly name: string;
  readonly notes?: Wish['notes'];
  /** As layouts were kept when a page had one text. */
  readonly note?: string;
  readonly has: Pick<Wish['has'], 'legend' | 'bar' | 'north'> & Partial<Wish['has']>;
  readonly legendColumns?: Wish['legendColumns'];
}

const FORMATS: readonly Wish['format'][] = ['pdf', 'svg', 'png'];
const MOST = 100;

const isNote = (value: unknown): value is PageNote => {
  const { text, place } = (value ?? {}) as Partial<PageNote>;
  return typeof text === 'string' && NOTE_PLACES.some((p) => p === place);
};

/** Of another version, or of another page: it is left out. */
function isLayout(value: unknown): value is Layout {
  const { name, paper, isWide, dpi, format, has, grid, note, notes, legendColumns } = (value ?? {}) as Partial<Layout>;
  return (
    typeof name === 'string' &&
    paper !== undefined &&
    Object.hasOwn(PAPERS, paper) &&
    typeof isWide === 'boolean' &&
    RESOLUTIONS.some((r) => r === dpi) &&
    FORMATS.some((f) => f === format) &&
    GRIDS.some((g) => g === grid) &&
    (typeof note === 'string' || (Array.isArray(notes) && notes.every(isNote))) &&
    [1, 2, 3].includes(legendColumns ?? 1) &&
    typeof has === 'object' &&
    (has as unknown) !== null &&
    (['legend', 'bar', 'north'] as const).every((k) => typeof has[k] === 'boolean')
  );
}

const list = keptList('rootmap.layouts', isLayout, MOST);
const keep = (name: string, { paper, isWide, dpi, format, has, grid, notes, legendColumns }: Wish): void =>
  list.set(withNamed(list.now(), { name, paper, isWide, dpi, format, has, grid, notes, legendColumns }));
const drop = (name: string): void => list.set(list.now().filter((l) => l.name !== name));

/** Layouts of pages that a person keeps, for all maps. */
export const useLayouts = () => ({ layouts: list.use(), keep, drop });

/** What a layout sets of a page; one that was kept before pages had a map of the region has none. */
export const wishOf = ({ name: _, note, notes, ...shared }: Layout): Partial<Wish> => ({
  ...shared,
  notes: notes ?? (note ? [{ text: note, place: 'lower-left' }] : []),
  legendColumns: shared.legendColumns ?? 1,
  has: { ...shared.has, locator: shared.has.locator ?? false },
});
