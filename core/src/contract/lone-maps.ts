import Joi from 'joi';
import { type PathRequest, pathRequest } from './places.js';
import { objectOf } from './shapes.js';

/** One map by itself, in a project or in none. Its `key` stands where that of a project does in the addresses below `mend`. */
export interface LoneMapView {
  readonly key: string;
  readonly title: string;
  readonly at: PathRequest;
  readonly layers: number;
}

/** Maps that belong to no project. */
export interface StrayMapsView {
  readonly maps: readonly {
    readonly at: PathRequest;
    readonly title: string;
    readonly layers: number;
    /** Layers that are not sound. */
    readonly broken: number;
    /** It cannot be read, and why. */
    readonly damaged: string | null;
  }[];
  readonly isStopped: boolean;
}

/** A map file that was dropped on the page: what it is called and what is in it. */
export interface DroppedMapRequest {
  readonly name: string;
  readonly text: string;
}

const name = Joi.string()
  .max(255)
  .pattern(/^[^/\\]+\.owc\.json$/i, 'the name of a map file (*.owc.json)')
  .required();

export const droppedMapRequest = objectOf<DroppedMapRequest>({ name, text: Joi.string().required() });

export interface KeepMapRequest extends DroppedMapRequest {
  readonly folder: PathRequest;
}

export const keepMapRequest = objectOf<KeepMapRequest>({ name, text: Joi.string().required(), folder: pathRequest.required() });
