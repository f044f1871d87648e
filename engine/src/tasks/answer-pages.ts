import { randomUUID } from 'node:crypto';
import type { MendAnswer, MendProjectView } from '@rootmap/core/contract';
import { asJson } from './task-base.js';

/** An answer as JSON, UTF-8; where it is long, all but its beginning stands in pages that are asked for one by one. */
export interface PagedAnswer {
  readonly first: Uint8Array;
  readonly pages: readonly AnswerPage[];
}

export interface AnswerPage {
  readonly id: string;
  readonly json: Uint8Array;
}

/** So many that neither end is held up: about a megabyte. */
const LAYERS_A_PAGE = 800;

/** What explains broken layers, by the page of layers. */
export function pagesOf(view: MendProjectView): PagedAnswer {
  const answer = randomUUID();
  const pages: AnswerPage[] = [];
  for (let from = LAYERS_A_PAGE; from < view.layers.length; from += LAYERS_A_PAGE)
    pages.push({ id: `${answer}-${pages.length + 1}`, json: asJson(view.layers.slice(from, from + LAYERS_A_PAGE)) });
  const first: MendAnswer = { ...view, layers: view.layers.slice(0, LAYERS_A_PAGE), more: pages.map((p) => p.id) };
  return { first: asJson(first), pages };
}
