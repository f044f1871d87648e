import Joi from 'joi';
import type { Label, Look } from '../look/look.js';
import { GRIDS, NOTE_PLACES, PAGE_FORMATS, PAPERS, RESOLUTIONS, type Grid, type PageNote } from '../page/index.js';
import type { LayerDataView } from './maps.js';
import { labelSchema, lookSchema } from './map-draft.js';
import { objectOf, text } from './shapes.js';

/** What of a page is the same for other maps. */
export interface PageLayout {
  readonly name: string;
  readonly paper: keyof typeof PAPERS;
  readonly isWide: boolean;
  readonly dpi: (typeof RESOLUTIONS)[number];
  readonly format: (typeof PAGE_FORMATS)[number];
  readonly grid: Grid;
  readonly notes: readonly PageNote[];
  readonly legendColumns: 1 | 2 | 3;
  readonly has: Readonly<Record<'legend' | 'bar' | 'north' | 'locator', boolean>>;
}

/** A look for layers of other maps and projects. */
export interface KeptLook {
  readonly name: string;
  readonly kind: LayerDataView['kind'];
  readonly look: Look;
  readonly label: Label | null;
}

/** What people keep for all of their maps, each by name. */
export interface ShelvesView {
  readonly layouts: readonly PageLayout[];
  readonly looks: readonly KeptLook[];
}

const name = Joi.string().trim().min(1).max(80).required();
const yes = Joi.boolean().required();

export const pageLayout = objectOf<PageLayout>({
  name,
  paper: Joi.string()
    .valid(...Object.keys(PAPERS))
    .required(),
  isWide: yes,
  dpi: Joi.number()
    .valid(...RESOLUTIONS)
    .required(),
  format: Joi.string()
    .valid(...PAGE_FORMATS)
    .required(),
  grid: Joi.string()
    .valid(...GRIDS)
    .required(),
  notes: Joi.array()
    .items(
      objectOf<PageNote>({
        text: text(2000).required(),
        place: Joi.string()
          .valid(...NOTE_PLACES)
          .required(),
      }),
    )
    .max(20)
    .required(),
  legendColumns: Joi.number().valid(1, 2, 3).required(),
  has: Joi.object({ legend: yes, bar: yes, north: yes, locator: yes }).required(),
});

export const keptLook = objectOf<KeptLook>({
  name,
  kind: Joi.string().valid('point', 'line', 'area', 'mixed', 'raster', 'table').allow(null).required(),
  look: lookSchema.required(),
  label: labelSchema.allow(null).required(),
});

export interface KeptName {
  readonly name: string;
}
export const keptName = objectOf<KeptName>({ name });
