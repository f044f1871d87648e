import type { NamingRules } from '../naming/rules.js';
import type { PlanFolder } from '../project/folder-plan.js';
import { type PathRequest, pathRequest } from './places.js';
import { planFolders } from './plans.js';
import { objectOf } from './shapes.js';

export interface FolderNodeView {
  /** From the root; '' is the root itself. */
  readonly path: string;
  /** Bytes and files of everything below it. */
  readonly bytes: number;
  readonly files: number;
}

export interface ThingView {
  /** From the root: the main file, or the folder of another program's container. */
  readonly path: string;
  readonly kind: 'dataset' | 'map' | 'container' | 'document' | 'archive' | 'left-behind' | 'other';
  /** Format of a dataset; of another file its ending. */
  readonly format: string;
  readonly bytes: number;
  readonly modifiedMs: number;
  /** Names of its files, the main file first. */
  readonly files: readonly string[];
  /** Layers that draw on it, in all known projects. */
  readonly usedBy: number;
}

export interface NameFindingView {
  readonly path: string;
  readonly rule: string;
  readonly message: string;
  readonly proposed: string | null;
}

/** Data in a folder of originals that is no longer as it was when it came. */
export interface TamperedView {
  readonly path: string;
  readonly why: 'changed' | 'gone';
  readonly sinceMs: number;
}

/** Everything that stands in a project's folders. */
export interface FoldersView {
  readonly folders: readonly FolderNodeView[];
  readonly things: readonly ThingView[];
  readonly nested: readonly string[];
  readonly skipped: readonly { readonly path: string; readonly why: string }[];
  readonly findings: readonly NameFindingView[];
  /** Role by folder, as the project file has them. */
  readonly roles: Readonly<Record<string, string>>;
  readonly naming: NamingRules;
  readonly isProject: boolean;
  readonly readOnly: boolean;
  readonly status: 'open' | 'finished';
  readonly title: string;
  readonly trashBytes: number;
  /** Length of the longest address of the root. */
  readonly rootLength: number;
  readonly tampered: readonly TamperedView[];
  /** Files among the originals that anybody could write to. */
  readonly unprotected: number;
}

/** What stands in a linked folder; paths are from it. */
export interface LinkedFolderView {
  readonly folders: readonly FolderNodeView[];
  readonly things: readonly ThingView[];
  readonly skipped: readonly { readonly path: string; readonly why: string }[];
}

export interface AdoptView {
  readonly proposals: readonly {
    readonly path: string;
    readonly format: string;
    readonly bytes: number;
    readonly folder: string | null;
    readonly why: string;
  }[];
}

export interface AdoptRequest {
  readonly folders: readonly PlanFolder[];
  /** A grown folder outside the root; null: the root itself. */
  readonly grown: PathRequest | null;
}

export const adoptRequest = objectOf<AdoptRequest>({
  folders: planFolders.required(),
  grown: pathRequest.allow(null).default(null),
});

/** What can go, and what it costs to keep. Unused and left-behind data is told from `FoldersView`. */
export interface HousekeepingView {
  /** Archives whose content stands beside them. */
  readonly unpacked: readonly { readonly path: string; readonly bytes: number; readonly where: string; readonly files: number }[];
  /** Data that can be had again from the address that its origin record tells. */
  readonly fetchable: readonly { readonly path: string; readonly bytes: number; readonly address: string }[];
}

export interface DuplicatesView {
  readonly groups: readonly { readonly bytes: number; readonly paths: readonly string[] }[];
  readonly files: number;
  readonly hashedBytes: number;
}
