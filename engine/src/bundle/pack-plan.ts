import type { SendChoices } from '@rootmap/core';
import type { LayerRow } from '../project/layer-row.js';
import type { MapDamaged } from '../project/read-maps.js';
import type { RootedScope } from '../project/scope.js';
import type { BundleFile, LeftOut } from './bundle-file.js';
import type { SendCheck } from './checks.js';
import type { Gathering } from './gather.js';
import type { MapPage } from './map-pages.js';
import type { Needs, OutsideThing } from './needs-of-maps.js';

/** Data outside the root that a layer uses. */
interface OutsideData {
  /** Real path of its main file. */
  readonly path: string;
  readonly kind: OutsideThing['kind'];
  readonly files: number;
  readonly bytes: number;
  readonly uses: OutsideThing['uses'];
  /** Where it stands in the bundle; null: it stays here. */
  readonly to: string | null;
}

export interface ToFetch {
  /** Where it belongs in the bundle. */
  readonly path: string;
  readonly address: string;
  readonly bytes: number;
  /** Real paths, the main file first. */
  readonly files: readonly string[];
  /** What the files were, by name, the main file first; null until a bundle is made. */
  readonly sums: readonly FileSum[] | null;
}
export interface FileSum {
  readonly path: string;
  /** `sha256:` and the checksum. */
  readonly hash: string;
}

export interface PackPlan {
  readonly scope: RootedScope;
  readonly choices: SendChoices;
  readonly damaged: readonly MapDamaged[];
  /** By code point of their paths in the bundle. */
  readonly payload: readonly BundleFile[];
  readonly leftOut: readonly LeftOut[];
  readonly outside: readonly OutsideData[];
  readonly services: Needs['services'];
  /** Every map of the root, by path, chosen or not. */
  readonly maps: readonly { readonly path: string; readonly title: string }[];
  /** Pictures of maps that draw on servers, where they are left; one for each such map. */
  readonly pages: readonly MapPage[];
  readonly toFetch: readonly ToFetch[];
  /** Tables that stay out, by the real path of their geodatabase: what goes in is a copy without them. */
  readonly tablesOut: ReadonlyMap<string, readonly string[]>;
  /** The geodatabase that outside tables are gathered into, and where it stands in the bundle; null: none is made. */
  readonly gathered: (Gathering & { readonly path: string }) | null;
  /** Maps, styles and records that are written otherwise than they are here. */
  readonly rewritten: number;
  /** As they will be where only the bundle is. */
  readonly layers: readonly LayerRow[];
  readonly findings: readonly SendCheck[];
  readonly bytes: number;
}
