import Joi from 'joi';
import { objectOf } from './shapes.js';

/** Hosts of one's own network that may be asked: by the configuration, and as people allowed it in the app. */
export interface PlaceHosts {
  readonly configured: readonly string[];
  readonly own: readonly string[];
}

export interface PlaceView {
  readonly name: string;
  readonly folder: string;
  readonly driveNames: readonly string[];
  readonly present: boolean;
  readonly readOnly: boolean;
  /** Since when it is absent, as far as this server saw it go. */
  readonly absentSince: string | null;
  /** The folder at which it stood before it was known again here by what is on it. */
  readonly formerly: string | null;
  /** What projects in it alone may ask. */
  readonly hosts: PlaceHosts;
}

export interface StatusView {
  readonly version: string;
  readonly demo: boolean;
  /** Servers that stand in for those of others are running beside the demo. */
  readonly standIns: boolean;
  /** Places can be added and removed in the app: only on loopback, and not when they are configured. */
  readonly placesEditable: boolean;
  /** Which hosts of one's own network may be asked can be set in the app: only on loopback. */
  readonly hostsEditable: boolean;
  /** It can open the file manager of the machine that it runs on: only on loopback. */
  readonly showsFiles: boolean;
  /** Hosts that projects in every place may ask. */
  readonly hosts: PlaceHosts;
  readonly notices: readonly string[];
}

export interface FolderView {
  readonly place: string;
  readonly path: string;
  readonly folders: readonly { readonly name: string; readonly isProject: boolean }[];
  readonly files: readonly { readonly name: string; readonly bytes: number; readonly format: string | null }[];
  readonly isProject: boolean;
  readonly isEmpty: boolean;
}

/** Shapes that come over HTTP, each written once: its schema, and the type that the schema checks. */

const placeName = Joi.string().trim().min(1).max(80).required();

/** Path below a place, `/` as separator; empty is the place itself. What it may hold is checked again at use. */
const pathBelow = Joi.string().allow('').max(4096).required();

export interface PathRequest {
  readonly place: string;
  readonly path: string;
}

export const pathRequest = objectOf<PathRequest>({ place: placeName, path: pathBelow });

export interface PlaceRequest {
  readonly name: string;
  readonly folder: string;
  readonly driveNames: readonly string[];
}

export const placeRequest = objectOf<PlaceRequest>({
  name: Joi.string()
    .trim()
    .min(1)
    .max(80)
    .pattern(/^[\p{L}\p{N}][\p{L}\p{N} _.-]*$/u, 'letters, digits, blank, point, dash and underscore')
    .required(),
  folder: Joi.string().min(1).max(4096).required(),
  driveNames: Joi.array().items(Joi.string().max(400)).max(20).default([]),
});

export interface HostRequest {
  readonly host: string;
  readonly allowed: boolean;
}
export const hostRequest = objectOf<HostRequest>({
  host: Joi.string()
    .lowercase()
    .pattern(/^([a-z0-9._-]+|\[[0-9a-f:]+\])(:\d{1,5})?$/, 'a host, or host:port')
    .max(260)
    .required(),
  allowed: Joi.boolean().required(),
});

export interface DriveNameRequest {
  readonly driveName: string;
}

export const driveNameRequest = objectOf<DriveNameRequest>({ driveName: Joi.string().min(2).max(400).required() });

export interface DemoPlaceRequest {
  readonly present?: boolean;
  readonly driveName?: string;
}

export const demoPlaceRequest = objectOf<DemoPlaceRequest>({ present: Joi.boolean(), driveName: Joi.string().max(400) }).or(
  'present',
  'driveName',
);

export type DriveKind = 'fixed' | 'removable' | 'network' | 'optical' | 'memory' | 'unknown';
/** A drive or share of the machine that the server runs on. */
export interface DriveView {
  readonly folder: string;
  /** As the system's own programs show it. */
  readonly shown: string;
  readonly kind: DriveKind;
  readonly label: string | null;
  /** What stands behind it: a server's share. */
  readonly share: string | null;
  /** Mounted for the system's own ends: nobody keeps files on it, and a place may stand there all the same. */
  readonly isSystem: boolean;
}
