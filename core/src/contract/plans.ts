import Joi from 'joi';
import { patternFault } from '../naming/pattern.js';
import { RULE_SETS, type NamingRules } from '../naming/rules.js';
import { type PlanFolder, planPathFault } from '../project/folder-plan.js';
import { ROLES } from '../project/roles.js';
import { type PathRequest, pathRequest } from './places.js';
import { epsgCode, objectOf } from './shapes.js';

/** A folder as a plan may have it. */
const planPath = Joi.string()
  .max(4096)
  .custom((value: string, helpers) => {
    const why = planPathFault(value);
    return why ? helpers.message({ custom: `"${value}": ${why}` }) : value;
  });

const planFolder = objectOf<PlanFolder>({
  path: planPath.required(),
  role: Joi.string()
    .valid(...ROLES)
    .required(),
  note: Joi.string().allow('').max(400).default(''),
});

export const planFolders = Joi.array().items(planFolder).max(500);

export const namingRules = objectOf<NamingRules>({
  rules: Joi.string()
    .valid(...RULE_SETS)
    .required(),
  // Whatever a project has, also limits that are not offered any more.
  limit: Joi.number().integer().min(1).max(255).allow(null).required(),
  umlauts: Joi.string().valid('ae', 'a').required(),
  pattern: Joi.string()
    .max(200)
    .allow(null)
    .required()
    .custom((value: string | null, helpers) => {
      const why = value === null ? null : patternFault(value);
      return why ? helpers.message({ custom: why }) : value;
    }),
  values: Joi.object().pattern(Joi.string().valid('site', 'initials'), Joi.string().allow('').max(80)).default({}),
});

export interface NewProjectBody {
  readonly at: PathRequest;
  readonly title: string;
  readonly summary: string;
  readonly folders: readonly PlanFolder[];
  readonly crs: string | null;
  readonly withGeodatabase: boolean;
  /** Key of the project that links and naming are taken from; null: none. */
  readonly like: string | null;
  readonly naming: NamingRules | null;
  /** Folders that other projects link, for this one too. */
  readonly links: readonly { readonly name: string; readonly at: PathRequest }[];
}

/** A folder that projects link. */
export interface StarterLink {
  readonly name: string;
  readonly at: PathRequest;
  readonly projects: number;
}

export const newProjectBody = objectOf<NewProjectBody>({
  at: pathRequest.required(),
  title: Joi.string().trim().min(1).max(200).required(),
  summary: Joi.string().allow('').max(2000).default(''),
  folders: planFolders.required(),
  crs: epsgCode.allow(null).default(null),
  withGeodatabase: Joi.boolean().default(false),
  like: Joi.string().max(40).allow(null).default(null),
  naming: namingRules.allow(null).default(null),
  links: Joi.array()
    .items(Joi.object({ name: Joi.string().trim().min(1).max(80).required(), at: pathRequest.required() }))
    .max(100)
    .default([]),
});

export interface NewProjectPreview {
  readonly root: string;
  readonly shownRoot: string;
  readonly created: readonly string[];
  /** Length of the longest path that the plan makes, on the target system with the longest address. */
  readonly longest: number;
  readonly limit: number;
  /** The folder holds something already. */
  readonly isFilled: boolean;
}

export interface FolderPlanView {
  readonly id: string;
  readonly title: string;
  readonly summary: string;
  readonly folders: readonly PlanFolder[];
  readonly isBuiltIn: boolean;
}

export interface FolderPlanBody {
  readonly title: string;
  readonly summary: string;
  readonly folders: readonly PlanFolder[];
}

export const folderPlanBody = objectOf<FolderPlanBody>({
  title: Joi.string().trim().min(1).max(80).required(),
  summary: Joi.string().allow('').max(400).default(''),
  folders: planFolders.min(1).required(),
});
