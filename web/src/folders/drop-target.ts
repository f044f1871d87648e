import type { PathRequest } from '@rootmap/core/contract';

/** Where something can be dropped: a folder of the project, a linked folder, or a place in which a folder is then chosen. */
export type DropTarget =
  | { readonly kind: 'folder'; readonly folder: string; readonly name: string }
  | { readonly kind: 'link'; readonly at: PathRequest; readonly name: string }
  | { readonly kind: 'place'; readonly at: PathRequest; readonly name: string };
