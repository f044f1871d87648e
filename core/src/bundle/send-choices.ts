import type { Placing } from './delivery.js';
import type { FolderPlan } from '../project/folder-plan.js';
import type { Role } from '../project/roles.js';

/** What a person wants in a bundle, and how it is to stand there. */
export interface SendChoices {
  /** `used`: project file, maps, what the maps use, documents. */
  readonly what: 'all' | 'used';
  /** Paths of maps from the root; null: all of them. */
  readonly maps: readonly string[] | null;
  readonly withoutRoles: readonly Role[];
  /** Paths from the root, folders too, or patterns with `*`. */
  readonly without: readonly string[];
  /** Day (`2026-03-14`): what no map uses and was last changed before it stays out. */
  readonly notBefore: string | null;
  /** Data outside the root: all of it comes along, none, or these files (as the preview names them). */
  readonly along: 'all' | 'none' | readonly string[];
  /** Data that its publisher offers stays out, and is listed with address, size and hash. */
  readonly leaveFetchable: boolean;
  /** Null: as it is. */
  readonly arrange: Pick<FolderPlan, 'title' | 'folders'> | null;
  /** Folders that a person put into a folder of the plan. */
  readonly placings: readonly Placing[];
  /** Of a geodatabase that layers use: all of it, or only the tables that they use. */
  readonly tables: 'whole' | 'used';
  /** Tables and shapes that come along go into one geodatabase, instead of the files that they are. */
  readonly gathers: boolean;
  /** A look that stands in a map is written as a file beside its data, too. */
  readonly looksBeside: boolean;
  /** A picture of each map that draws on servers, in their place. */
  readonly leavesPictures: boolean;
  /** One layer alone, with its data and its look, and no map; null: all that is chosen above. */
  readonly layer: { readonly map: string; readonly id: string } | null;
  /** Characters of the folder that it will be unpacked in. */
  readonly rootCharacters: number;
}

/** `C:\Users\` and a usual name of folders. */
const RECKONED_ROOT_CHARACTERS = 60;

export const SEND_ALL: SendChoices = {
  what: 'all',
  maps: null,
  withoutRoles: [],
  without: [],
  notBefore: null,
  along: 'none',
  leaveFetchable: false,
  arrange: null,
  placings: [],
  tables: 'whole',
  gathers: false,
  looksBeside: false,
  leavesPictures: false,
  layer: null,
  rootCharacters: RECKONED_ROOT_CHARACTERS,
};
