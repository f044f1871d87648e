import type { Role } from '@rootmap/core';

/** A layer that needs a file: why the file is in. */
export interface Use {
  readonly map: string;
  /** Its title, and its id in the map. */
  readonly layer: string;
  readonly id: string;
}

/** One file as it goes into a bundle. */
export interface BundleFile {
  /** Real path on this machine; null: made for the bundle. */
  readonly source: string | null;
  /** What goes in instead of the bytes that stand there; null: those. */
  readonly content: Buffer | null;
  /** From the payload's top, `/` as separator. */
  readonly to: string;
  /** Where it would stand if nothing were arranged; empty: it is made for the bundle. */
  readonly asIs: string;
  /** As it goes in. */
  readonly bytes: number;
  /** Of the file on the disk as it was listed: it must be so still when it is read. */
  readonly sourceBytes: number;
  readonly modifiedMs: number;
  readonly from: 'inside' | 'along' | 'added' | 'made';
  readonly role: Role;
  /** The main file of a dataset, or a file by itself. */
  readonly isMain: boolean;
  readonly uses: readonly Use[];
}

export interface LeftOut {
  readonly path: string;
  readonly why: string;
}
