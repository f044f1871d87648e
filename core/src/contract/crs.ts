import Joi from 'joi';
import { MOST_LAYERS } from './map-draft.js';
import { objectOf } from './shapes.js';

/** A CRS that a dataset without one could be in. */
export interface CrsCandidate {
  readonly crs: CrsView;
  readonly why: string;
  /** The middle of its data, degrees east and north, if it were in this CRS. */
  readonly spot: readonly [number, number] | null;
  /** The data would lie inside the area that the CRS is meant for. */
  readonly fits: boolean;
}

export interface CrsView {
  readonly code: string;
  readonly name: string;
  readonly unit: string;
  readonly area: string;
  /** West, south, east, north in degrees; west is greater than east where it crosses the date line. */
  readonly bounds: readonly [number, number, number, number];
}

export interface MapCrsView extends CrsView {
  readonly proj4: string | null;
}

/** What a map of some data could be drawn in. */
export interface CrsProposal {
  readonly crs: CrsView;
  readonly why: string;
  readonly method: string;
  /** Largest departure of lengths from the truth, over the extent, in parts per thousand; of areas likewise. */
  readonly lengthPerMille: number;
  readonly areaPerMille: number;
}

export interface CrsAdvice {
  /** What the layers themselves propose, and why. */
  readonly proposed: CrsProposal | null;
  /** Others that suit the extent, the least distortion first. */
  readonly others: readonly CrsProposal[];
  readonly degrees: readonly [number, number, number, number] | null;
}

export interface CrsAdviceRequest {
  readonly datasets: readonly string[];
}

export const crsAdviceRequest = objectOf<CrsAdviceRequest>({
  datasets: Joi.array().items(Joi.string().max(8192)).max(MOST_LAYERS).required(),
});
