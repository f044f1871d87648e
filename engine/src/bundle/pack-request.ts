import { SEND_ALL, type SendChoices } from '@rootmap/core';

/** What is asked for when a bundle is planned. */
export interface PackRequest {
  readonly choices: SendChoices;
  /** Where it goes: it does not hold itself. */
  readonly out: string | null;
  /** Real paths of files and folders that are not of the project, added by a person. */
  readonly added: readonly string[];
  /** Maps with changes that are not saved yet, from the root. */
  readonly unsaved: readonly string[];
  /** Where pictures of maps are kept that the page drew; null: there are none. */
  readonly pagesFolder: string | null;
  /** Who sends it: their name should not stand in paths. */
  readonly person: string;
}
export const PACK_ALL: PackRequest = { choices: SEND_ALL, out: null, added: [], unsaved: [], pagesFolder: null, person: '' };
