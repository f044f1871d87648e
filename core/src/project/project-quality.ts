import { member, textOf, type JsonNode } from '../json/json-tree.js';

/** What sheet every dataset must have before a project is sent. */
export const SHEET_NEEDS = ['none', 'computed', 'reviewed'] as const;
export type SheetNeed = (typeof SHEET_NEEDS)[number];

/** What a project asks of its data. */
export interface ProjectQuality {
  /** The dataset of areas that the project is about: path from the root, `../` leads out, with `#table`; null: none. */
  readonly area: string | null;
  readonly sheets: SheetNeed;
}

export const NO_QUALITY: ProjectQuality = { area: null, sheets: 'none' };

/** Missing or unknown members ask for nothing. */
export function parseProjectQuality(node: JsonNode | undefined): ProjectQuality {
  const sheets = textOf(member(node, 'sheets'));
  return { area: textOf(member(node, 'area')) ?? null, sheets: SHEET_NEEDS.find((n) => n === sheets) ?? 'none' };
}
