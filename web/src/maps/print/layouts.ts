import type { PageLayout } from '@rootmap/core/contract';
import type { Wish } from './page-wish.js';

/** What of a page is the same for other maps, under a name. */
export const layoutOf = (name: string, { paper, isWide, dpi, format, has, grid, notes, legendColumns }: Wish): PageLayout => ({
  name,
  paper,
  isWide,
  dpi,
  format,
  has,
  grid,
  notes,
  legendColumns,
});

/** What a layout sets of a page. */
export const wishOf = ({ name: _, ...shared }: PageLayout): Partial<Wish> => shared;
