import type { Location } from '../address/place.js';
import type { Fingerprint } from '../dataset/fingerprint.js';
import type { Role } from '../project/roles.js';

/** A path in some space: a place, or the drive or share of a machine that is not this one. */
export interface Trail {
  readonly space: string;
  readonly segments: readonly string[];
}

/** A layer to be mended, as the matcher sees it. */
export interface BrokenLayer {
  readonly key: string;
  /** The map it is in, and that map's own location. */
  readonly map: Location;
  readonly title: string;
  /** Where its data was recorded; null: no source was recorded. */
  readonly recorded: Trail | null;
  /** The steps of a relative reference, `..` included; null for absolute ones. */
  readonly steps: readonly string[] | null;
  readonly table: string | null;
  readonly fingerprint: Fingerprint | null;
  readonly needs: readonly string[];
  /** Where its link leads, when it came through a linked folder. */
  readonly throughLink: Location | null;
  /**
   * Its data stands where it was recorded, but cannot be used: its place is absent, it is damaged, or a companion is missing.
   * Then a copy may be offered, and nothing more.
   */
  readonly isHere: 'absent' | 'damaged' | 'incomplete' | null;
}

/** A dataset within reach. */
export interface Target {
  readonly location: Location;
  readonly table: string | null;
  readonly fingerprint: Fingerprint;
  /** A needed companion is missing or it cannot be read. */
  readonly damaged: boolean;
}

export type Verdict = 'certain' | 'likely' | 'possible' | 'none';

/** Verdicts that explain a layer well enough not to look further. */
export const EXPLAINED: readonly Verdict[] = ['certain', 'likely'];

/** Independent kinds of evidence. */
export type EvidenceKind = 'hash' | 'name' | 'content' | 'agreement' | 'link' | 'spelling' | 'accepted' | 'seen';

/**
 * What the place of a dataset says for it, where several are alike. The order is that of the weights: each counts more than
 * all below it.
 */
export interface Standing {
  /** It is where work is done, rather than where downloads, backups or originals are kept. */
  readonly isForWork: boolean;
  /** It is below the root or a folder that the project links. */
  readonly isInProject: boolean;
  /** Its folder is the recorded one, or stands beside it. */
  readonly isNextToOld: boolean;
  /** With it stands at least half of what was recorded beside the layer's data. */
  readonly isAmongSiblings: boolean;
}

export interface Candidate {
  readonly target: Target;
  /** By which candidates are ordered: how well it fits, and where copies stand against each other the points of its place. */
  readonly score: number;
  /** How well its name, its content and what is known of it fit. */
  readonly fit: number;
  /** Only where others are as good. */
  readonly standing: Standing | null;
  readonly kinds: ReadonlySet<EvidenceKind>;
  /** Sentences a person can check. */
  readonly evidence: readonly string[];
}

/** An explanation: what stood below `from` stands below `to`. */
export interface Shift {
  readonly kind: 'folder' | 'map-moved' | 'renamed' | 'converted';
  readonly from: Trail;
  readonly to: Trail;
  readonly layers: readonly string[];
  readonly evidence: readonly string[];
}

export interface Proposal {
  readonly layer: string;
  readonly verdict: Verdict;
  readonly candidates: readonly Candidate[];
  /** Index into the shifts; null when nothing explains it. */
  readonly shift: number | null;
  /** Equal content stands in several places: which is the better one, and why. Null: there is nothing to choose. */
  readonly choice: Choice | null;
}

export interface Choice {
  /** How many datasets are equal, the best candidate counted. */
  readonly equal: number;
  /** What of its place speaks for the best candidate and not for the next. */
  readonly reasons: readonly string[];
  /** What of its place speaks for the next and not for the best, which fits better otherwise. */
  readonly against: readonly string[];
}

/** What people decided before, in any map and project. */
export interface MendDecisions {
  /** `layer key`, a line break, and the key of a dataset (`targetKey`): 'not this one'. */
  readonly rejected: ReadonlySet<string>;
  /** Moves that were accepted: what stood below `from` stands below `to`. */
  readonly accepted: readonly { readonly from: Trail; readonly to: Trail }[];
}
export const NO_DECISIONS: MendDecisions = { rejected: new Set(), accepted: [] };

/** What was seen to move: by the app itself, or known again by what it is on the disk. */
export interface SeenMove {
  readonly from: Trail;
  readonly to: Trail;
  /** A sentence that a person can check. */
  readonly how: string;
}

/** What is known of the disk and the project, beside what the data says. */
export interface MendSurroundings {
  readonly seen: readonly SeenMove[];
  /** The root and the folders that it links; none for a map in no project. */
  readonly project: readonly Location[];
  readonly roleOf: (trail: Trail) => Role | null;
}
export const NO_SURROUNDINGS: MendSurroundings = { seen: [], project: [], roleOf: () => null };

/** Names a dataset in reach. */
export const targetKey = (t: Pick<Target, 'location' | 'table'>): string =>
  `${t.location.place}/${t.location.segments.join('/')}#${t.table ?? ''}`;
