import Joi from 'joi';
import { isUnsafePath } from '../address/unsafe-path.js';
import type { NamingRules } from '../naming/rules.js';
import type { PlanFolder } from '../project/folder-plan.js';
import { SHEET_NEEDS, type ProjectQuality } from '../project/project-quality.js';
import type { NoteTarget } from '../project/project-notes.js';
import { ROLES, type Role } from '../project/roles.js';
import type { StatedDialect } from '../format/csv/csvw.js';
import { type TableEdit, tableEdit, type TextReading } from './geodatabases.js';
import { urlOf } from '../service/service-address.js';
import type { ServiceTree } from '../service/service-tree.js';
import { withoutSecrets } from '../bundle/secrets.js';
import type { JobView } from './jobs.js';
import type { AppliedView } from './journal.js';
import { type PathRequest, pathRequest } from './places.js';
import { planFolders, namingRules } from './plans.js';
import { epsgCode, type MembersOf } from './shapes.js';

const REFERENCE_ACTS = ['relative', 'absolute', 'bring-in', 'respell'] as const;

export interface ReferenceEdit {
  /** From the root. */
  readonly map: string;
  readonly layer: string;
  readonly act: (typeof REFERENCE_ACTS)[number];
}

interface ServiceLayerRequest {
  readonly title: string;
  readonly code: 'wms' | 'features' | 'tiles';
  readonly href: string;
  readonly rights: string;
}

/** Changes that a person makes to a project's folders, each shown before and done as one change. */
export type EditRequest =
  | {
      readonly kind: 'move';
      readonly moves: readonly { readonly from: PathRequest; readonly to: PathRequest }[];
      readonly evenOriginals: boolean;
      /** A grown folder that they come from: its maps follow, and its folders go when nothing is left in them. */
      readonly grown: PathRequest | null;
    }
  | { readonly kind: 'trash'; readonly paths: readonly PathRequest[]; readonly evenOriginals: boolean }
  | {
      readonly kind: 'names';
      /** From the root; null: everything that breaks a rule. */
      readonly only: readonly string[] | null;
      readonly chosen: Readonly<Record<string, string>>;
      readonly evenOriginals: boolean;
      /** Also what files mention that cannot be rewritten. */
      readonly evenMentioned: boolean;
    }
  | { readonly kind: 'naming'; readonly naming: NamingRules }
  /** What the project says of itself. A CRS is for what is made from now on: no map and no data changes its own. */
  | { readonly kind: 'card'; readonly title: string; readonly summary: string; readonly crs: string | null }
  /** One more note of the project, dated now. */
  | { readonly kind: 'note'; readonly text: string; readonly about: NoteTarget | null }
  /** How the project was made and for which scales, as it goes into the read-me of bundles. */
  | { readonly kind: 'method'; readonly text: string }
  /** What the project asks of its data: the dataset of areas that it is about, by its id, and sheets before it is sent. */
  | ({ readonly kind: 'quality' } & ProjectQuality)
  /** Values that may stand in a field of a dataset; none: anything. */
  | { readonly kind: 'codes'; readonly dataset: string; readonly field: string; readonly codes: readonly string[] }
  | { readonly kind: 'role'; readonly path: string; readonly role: Role | null }
  | { readonly kind: 'folders'; readonly folders: readonly PlanFolder[] }
  | { readonly kind: 'copy'; readonly from: PathRequest; readonly to: PathRequest }
  | {
      readonly kind: 'adopt';
      readonly title: string;
      readonly crs: string | null;
      readonly folders: readonly PlanFolder[];
      readonly moves: readonly { readonly path: string; readonly folder: string }[];
    }
  /** A folder outside the root is linked by name, instead of those in `replaces`. */
  | {
      readonly kind: 'link';
      readonly name: string;
      readonly folder: PathRequest;
      readonly note: string;
      readonly replaces: readonly string[];
    }
  /** The folder of a link that is gone stands elsewhere: the link and every reference below it follow. */
  | { readonly kind: 'relink'; readonly name: string; readonly folder: PathRequest }
  | { readonly kind: 'unlink'; readonly name: string }
  /** A server is linked by name. Its address has neither name, password nor key in it. */
  | { readonly kind: 'link-service'; readonly name: string; readonly service: ServiceTree['kind']; readonly url: string }
  | { readonly kind: 'unlink-service'; readonly name: string }
  /** A server stands at another address: its link and every layer that draws on it follow. */
  | { readonly kind: 'move-service'; readonly from: string; readonly to: string }
  /** What a server offers becomes layers of a map; `map` null: of a new one with this title and CRS. */
  | {
      readonly kind: 'add-services';
      readonly layers: readonly ServiceLayerRequest[];
      readonly map: string | null;
      readonly title: string;
      readonly crs: string | null;
    }
  /** A dataset that tells no CRS gets a `.prj`. */
  | { readonly kind: 'assign-crs'; readonly dataset: PathRequest; readonly crs: string }
  /** The `.shx` of a shapefile that lost it is made anew from its shapes; `isSpatial`: a `.qix`, too, where there is none. */
  | { readonly kind: 'rebuild-index'; readonly dataset: PathRequest; readonly isSpatial: boolean }
  /** Shapes that lost their table get it back: a copy of one that stands elsewhere. */
  | { readonly kind: 'bring-table'; readonly dataset: PathRequest; readonly table: PathRequest }
  /** Which columns of a CSV hold coordinates is written beside it. Null: none does. */
  | {
      readonly kind: 'csv-columns';
      readonly dataset: PathRequest;
      readonly columns: { readonly x: string; readonly y: string } | null;
      /** Columns that are text, whatever their values look like. */
      readonly asText?: readonly string[];
      /** How its rows are read is written beside it, too; columns are those that it has then. Null members: found out from the rows. */
      readonly dialect?: StatedDialect;
    }
  /** Datasets become layers of a map; `map` null: of a new one with this title. */
  | { readonly kind: 'add-to-map'; readonly datasets: readonly string[]; readonly map: string | null; readonly title: string }
  /** The geodatabase that results go to, of the project or of one map; null: none, and for a map that of the project. Paths from the root. */
  | { readonly kind: 'working-geodatabase'; readonly path: string | null; readonly map: string | null }
  /** Layers that use a dataset use a table of a geodatabase instead, which holds the same. Ids of datasets. */
  | { readonly kind: 'use-tables'; readonly pairs: readonly { readonly from: string; readonly to: string }[] }
  | ({ readonly kind: 'tables' } & TableEdit)
  /** References of some layers are written otherwise, as one change; what is outside is copied into the plan where that is asked for. */
  | { readonly kind: 'references'; readonly layers: readonly ReferenceEdit[] }
  /** Datasets that stand outside are copied into the plan, with their origin; layers of the project that use them follow. Real paths. */
  | { readonly kind: 'bring-in'; readonly datasets: readonly string[] }
  /** How maps store references unless they say otherwise. */
  | { readonly kind: 'stored-form'; readonly form: 'relative' | 'absolute' }
  | { readonly kind: 'separate' }
  /** Originals that can be written to are set read-only. */
  | { readonly kind: 'protect' }
  /** References follow what moved while the project was away. */
  | { readonly kind: 'follow' }
  | { readonly kind: 'finish'; readonly bundle: PathRequest };

/** A path from the root, `/` as separator, that does not lead out of it. */
const rootPath = Joi.string()
  .max(4096)
  .custom((value: string, helpers) => (isUnsafePath(value) ? helpers.message({ custom: `"${value}" leads out of the project` }) : value));

/** An address of a server; what it holds that is secret is refused, since it would be written into a file. */
const serviceUrl = Joi.string()
  .max(2048)
  .custom((value: string, helpers) => {
    if (!urlOf(value)) return helpers.message({ custom: `"${value.slice(0, 80)}" is no address. It begins with https:// or http://` });
    return withoutSecrets(value) === value ? value : helpers.message({ custom: 'A password or key is kept apart from the address.' });
  });

const evenOriginals = Joi.boolean().default(false);

type Kind = EditRequest['kind'];
/** Members of each kind; those of tables hang together in ways that only their schema tells. */
const byKind: { readonly [K in Kind]: K extends 'tables' ? Joi.SchemaMap : MembersOf<Omit<Extract<EditRequest, { kind: K }>, 'kind'>> } = {
  move: {
    moves: Joi.array()
      .items(Joi.object({ from: pathRequest.required(), to: pathRequest.required() }))
      .min(1)
      .max(20_000)
      .required(),
    evenOriginals,
    grown: pathRequest.allow(null).default(null),
  },
  trash: { paths: Joi.array().items(pathRequest).min(1).max(20_000).required(), evenOriginals },
  names: {
    only: Joi.array().items(rootPath).max(50_000).allow(null).default(null),
    chosen: Joi.object()
      .pattern(
        Joi.string().max(4096),
        Joi.string()
          .max(255)
          .pattern(/^[^/\\]+$/, 'a name without a slash'),
      )
      .default({}),
    evenOriginals,
    evenMentioned: Joi.boolean().default(false),
  },
  naming: { naming: namingRules.required() },
  method: { text: Joi.string().allow('').max(20_000).required() },
  quality: {
    area: Joi.string().max(8192).allow(null).required(),
    sheets: Joi.string()
      .valid(...SHEET_NEEDS)
      .required(),
  },
  codes: {
    dataset: Joi.string().max(8192).required(),
    field: Joi.string().min(1).max(400).required(),
    codes: Joi.array().items(Joi.string().allow('').max(400)).max(20_000).required(),
  },
  role: {
    path: rootPath.required(),
    role: Joi.string()
      .valid(...ROLES)
      .allow(null)
      .required(),
  },
  folders: { folders: planFolders.min(1).required() },
  copy: { from: pathRequest.required(), to: pathRequest.required() },
  adopt: {
    title: Joi.string().trim().min(1).max(200).required(),
    crs: epsgCode.allow(null).default(null),
    folders: planFolders.required(),
    moves: Joi.array()
      .items(Joi.object({ path: rootPath.required(), folder: rootPath.required() }))
      .max(50_000)
      .required(),
  },
  link: {
    name: Joi.string().trim().min(1).max(80).required(),
    folder: pathRequest.required(),
    note: Joi.string().allow('').max(400).default(''),
    replaces: Joi.array().items(Joi.string().max(80)).max(100).default([]),
  },
  'rebuild-index': { dataset: pathRequest.required(), isSpatial: Joi.boolean().default(false) },
  'bring-table': { dataset: pathRequest.required(), table: pathRequest.required() },
  'assign-crs': { dataset: pathRequest.required(), crs: epsgCode.required() },
  'csv-columns': {
    dataset: pathRequest.required(),
    columns: Joi.object({ x: Joi.string().max(400).required(), y: Joi.string().max(400).required() })
      .allow(null)
      .required(),
    asText: Joi.array().items(Joi.string().max(400)).max(2000),
    dialect: Joi.object({
      delimiter: Joi.string().length(1).allow(null).required(),
      encoding: Joi.string().max(40).allow(null).required(),
      hasNames: Joi.boolean().allow(null).required(),
    }),
  },
  'add-to-map': {
    datasets: Joi.array().items(Joi.string().max(8192)).min(1).max(500).required(),
    map: rootPath.allow(null).required(),
    title: Joi.string().trim().allow('').max(200).default(''),
  },
  relink: { name: Joi.string().max(80).required(), folder: pathRequest.required() },
  unlink: { name: Joi.string().max(80).required() },
  'link-service': {
    name: Joi.string().trim().min(1).max(80).required(),
    service: Joi.string().valid('wms', 'features', 'tiles', 'records').required(),
    url: serviceUrl.required(),
  },
  'unlink-service': { name: Joi.string().max(80).required() },
  'move-service': { from: serviceUrl.required(), to: serviceUrl.required() },
  'add-services': {
    layers: Joi.array()
      .items(
        Joi.object({
          title: Joi.string().trim().min(1).max(400).required(),
          code: Joi.string().valid('wms', 'features', 'tiles').required(),
          href: serviceUrl.required(),
          rights: Joi.string().allow('').max(2000).default(''),
        }),
      )
      .min(1)
      .max(200)
      .required(),
    map: rootPath.allow(null).required(),
    title: Joi.string().trim().allow('').max(200).default(''),
    crs: epsgCode.allow(null).default(null),
  },
  card: {
    title: Joi.string().trim().min(1).max(200).required(),
    summary: Joi.string().trim().allow('').max(4000).required(),
    crs: epsgCode.allow(null).required(),
  },
  note: {
    text: Joi.string().trim().min(1).max(20_000).required(),
    about: Joi.alternatives(
      Joi.object({ kind: Joi.valid('path').required(), path: rootPath.required() }),
      Joi.object({
        kind: Joi.valid('change').required(),
        id: Joi.string()
          .pattern(/^[\w-]{1,80}$/)
          .required(),
        title: Joi.string().allow('').max(400).required(),
      }),
    )
      .allow(null)
      .default(null),
  },
  'working-geodatabase': { path: rootPath.allow(null).required(), map: rootPath.allow(null).default(null) },
  tables: tableEdit,
  'use-tables': {
    pairs: Joi.array()
      .items(Joi.object({ from: Joi.string().max(8192).required(), to: Joi.string().max(8192).required() }))
      .min(1)
      .max(500)
      .required(),
  },
  references: {
    layers: Joi.array()
      .items(
        Joi.object({
          map: rootPath.required(),
          layer: Joi.string().max(2000).required(),
          act: Joi.string()
            .valid(...REFERENCE_ACTS)
            .required(),
        }),
      )
      .min(1)
      .max(50_000)
      .required(),
  },
  'bring-in': { datasets: Joi.array().items(Joi.string().max(8192)).min(1).max(500).required() },
  'stored-form': { form: Joi.string().valid('relative', 'absolute').required() },
  separate: {},
  follow: {},
  protect: {},
  finish: { bundle: pathRequest.required() },
};

/** Members are checked by the kind that is asked for. */
export const editRequest = Joi.object<EditRequest>({
  kind: Joi.string()
    .valid(...Object.keys(byKind))
    .required(),
})
  .unknown()
  .required()
  .custom((value: { kind: EditRequest['kind'] }, helpers) => {
    const checked = Joi.object({ kind: Joi.string().required(), ...byKind[value.kind] }).validate(value, { abortEarly: false });
    return checked.error ? helpers.message({ custom: checked.error.message }) : (checked.value as EditRequest);
  })
  // What each kind has, for the description of the interface.
  .meta({ oneOf: Object.entries(byKind).map(([kind, members]) => Joi.object({ kind: Joi.string().valid(kind).required(), ...members })) });

/** What an edit would do, before it is done. */
export interface EditPreview {
  readonly title: string;
  readonly files: number;
  /** The first of them, as people call them: from the root. */
  readonly moved: readonly { readonly from: string; readonly to: string }[];
  readonly folders: readonly string[];
  readonly references: readonly { readonly map: string; readonly title: string; readonly before: string; readonly after: string }[];
  /** All of them, of which `references` are the first. */
  readonly referenceCount: number;
  readonly maps: number;
  /** Layers that maps get. */
  readonly added: readonly { readonly map: string; readonly title: string; readonly href: string }[];
  /** Also mentioned in, not rewritten. */
  readonly mentioned: readonly string[];
  /** For renames: names that such files mention. */
  readonly mentionedNames: readonly { readonly path: string; readonly files: readonly string[] }[];
  /** Layers that use what goes to the trash. */
  readonly usedBy: readonly { readonly map: string; readonly title: string; readonly path: string }[];
  /** Layers that go through a link that goes: they still reach their data, by its whole address. */
  readonly loosened: readonly { readonly map: string; readonly title: string; readonly path: string }[];
  readonly damaged: readonly { readonly path: string; readonly message: string }[];
  /** Left out because they are originals. */
  readonly protectedPaths: readonly string[];
  readonly records: readonly string[];
  readonly copiedBytes: number;
  /** What is copied takes the place of files that go to the trash: a move to another disk. */
  readonly isOldTrashed: boolean;
  readonly trashedBytes: number;
  /** What stays as it is though it was asked for, and why. */
  readonly kept: readonly { readonly map: string; readonly title: string; readonly why: string }[];
  /** Bytes of geodatabases that are written anew and replaced. */
  readonly stagedBytes: number;
  /** Of a table of text: how it would be read. */
  readonly reading: TextReading | null;
  /** False: there is nothing to do. */
  readonly changes: boolean;
}

/** What moved while a project was away. */
export interface MissedView {
  readonly moves: number;
}

export interface EditApplied extends AppliedView {
  /** Copying that takes its time goes on as a job. */
  readonly job: JobView | null;
  /** The map that got layers, from the root. */
  readonly map: string | null;
}
