import type { LayerState } from '../map/layer-state.js';
import { type PathRequest, pathRequest } from './places.js';
import { objectOf } from './shapes.js';

export interface PackPreview {
  readonly suggested: { readonly place: string; readonly path: string };
  readonly files: number;
  readonly bytes: number;
  readonly leftOut: readonly { readonly path: string; readonly why: string }[];
  readonly findings: readonly { readonly path: string; readonly why: string }[];
  readonly layers: readonly { readonly map: string; readonly title: string; readonly state: LayerState; readonly detail: string | null }[];
  readonly rewritten: number;
  readonly carriers: readonly { readonly name: string; readonly fits: boolean; readonly why: string; readonly limitBytes: number | null }[];
}

export interface PackRequest {
  readonly out: PathRequest;
}

export const packRequest = objectOf<PackRequest>({ out: pathRequest.required() });

export interface ReceiveRequest {
  readonly bundle: PathRequest;
  readonly into: PathRequest;
}

export const receiveRequest = objectOf<ReceiveRequest>({ bundle: pathRequest.required(), into: pathRequest.required() });

/** A bundle that was made and read back. */
export interface PackedView {
  readonly file: string;
  readonly bytes: number;
  readonly payload: { readonly files: number; readonly bytes: number };
  readonly out: PathRequest;
}

/** A bundle that came in; with findings, it is not valid and nothing was unpacked. */
export interface ArrivedView {
  readonly root: string;
  readonly files: number;
  readonly bytes: number;
  readonly key: string | null;
  readonly layers: readonly { readonly title: string; readonly state: LayerState; readonly reason?: string }[];
  readonly findings: readonly { readonly path: string; readonly problem: string }[];
}
