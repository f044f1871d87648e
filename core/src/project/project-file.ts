import type { StoredForm } from '../address/reference.js';
import { member, items, parseJsonTree, textOf, toValue, type JsonNode } from '../json/json-tree.js';
import type { ServiceTree } from '../service/service-tree.js';
import { DEFAULT_NAMING, RULE_SETS, type NamingRules } from '../naming/rules.js';
import { done, fail, type Result } from '../problem.js';
import { parseProjectQuality, type ProjectQuality } from './project-quality.js';

/** `finished`: bundled, its links dropped. */
type ProjectStatus = 'open' | 'finished';

export interface ProjectLink {
  readonly name: string;
  /** Relative to the root, tried first. */
  readonly path: string | null;
  /** A `file:` URI. */
  readonly address: string | null;
  readonly note: string;
}

/** A remote server that the project draws layers from. Never a password, and no key. */
export interface ProjectServiceLink {
  readonly name: string;
  readonly kind: ServiceTree['kind'];
  readonly url: string;
}

export interface ProjectFile {
  readonly id: string;
  readonly name: string;
  readonly title: string;
  readonly summary: string;
  /** How it was made, and for which scales, in the words of whoever made it: goes into the read-me of bundles. */
  readonly method: string;
  readonly created: string;
  readonly status: ProjectStatus;
  readonly crs: string | null;
  readonly storedForm: StoredForm;
  readonly workingGeodatabase: string | null;
  readonly folders: Readonly<Record<string, string>>;
  readonly links: readonly ProjectLink[];
  readonly services: readonly ProjectServiceLink[];
  readonly naming: NamingRules;
  readonly quality: ProjectQuality;
}

/** Kinds that are read; one of another kind stays in the file as it is. */
const SERVICE_KINDS = ['wms', 'features', 'tiles', 'records'] as const;

const PROJECT_FORMAT = 'rootmap-project/1';

/** Reads a project file. Missing members have their defaults; only its form and id must be there. Never throws. */
export function parseProjectFile(file: string, text: string): Result<ProjectFile> {
  const tree = parseJsonTree(file, text);
  if (!tree.ok) return tree;
  const root = tree.value;
  const format = textOf(member(root, 'format'));
  if (format !== PROJECT_FORMAT) return fail({ code: 'wrong-shape', file, member: 'format', expected: `"${PROJECT_FORMAT}"` });
  const id = textOf(member(root, 'id'));
  if (!id) return fail({ code: 'wrong-shape', file, member: 'id', expected: 'the id of the project' });
  const name = textOf(member(root, 'name')) ?? file.replace(/^.*\//, '').replace(/\.rootmap\.json$/i, '');
  const folders = member(root, 'folders');
  return done({
    id,
    name,
    title: textOf(member(root, 'title')) ?? name,
    summary: textOf(member(root, 'summary')) ?? '',
    method: textOf(member(root, 'method')) ?? '',
    created: textOf(member(root, 'created')) ?? '',
    status: textOf(member(root, 'status')) === 'finished' ? 'finished' : 'open',
    crs: textOf(member(root, 'crs')) ?? null,
    storedForm: textOf(member(root, 'storedForm')) === 'absolute' ? 'absolute' : 'relative',
    workingGeodatabase: textOf(member(root, 'workingGeodatabase')) ?? null,
    folders: folders?.kind === 'object' ? textsOf(toValue(folders) as Record<string, unknown>) : {},
    naming: parseNaming(member(root, 'naming')),
    quality: parseProjectQuality(member(root, 'quality')),
    services: items(member(root, 'services')).flatMap((s) => {
      const [serviceName, url] = [textOf(member(s, 'name')), textOf(member(s, 'url'))];
      const kind = SERVICE_KINDS.find((k) => k === textOf(member(s, 'kind')));
      return serviceName !== undefined && url !== undefined && kind ? [{ name: serviceName, kind, url }] : [];
    }),
    links: items(member(root, 'links')).flatMap((l) => {
      const linkName = textOf(member(l, 'name'));
      if (linkName === undefined) return [];
      return [
        {
          name: linkName,
          path: textOf(member(l, 'path')) ?? null,
          address: textOf(member(l, 'address')) ?? null,
          note: textOf(member(l, 'note')) ?? '',
        },
      ];
    }),
  });
}

/** Missing or unknown members have their defaults. */
function parseNaming(node: JsonNode | undefined): NamingRules {
  const rules = textOf(member(node, 'rules'));
  const limit = member(node, 'limit');
  const values = member(node, 'values');
  return {
    rules: RULE_SETS.find((r) => r === rules) ?? DEFAULT_NAMING.rules,
    limit: limit?.kind === 'scalar' && typeof limit.value === 'number' && limit.value >= 1 ? Math.floor(limit.value) : null,
    umlauts: textOf(member(node, 'umlauts')) === 'a' ? 'a' : 'ae',
    pattern: textOf(member(node, 'pattern')) ?? null,
    values: values?.kind === 'object' ? textsOf(toValue(values) as Record<string, unknown>) : {},
  };
}

const textsOf = (value: Record<string, unknown>): Record<string, string> =>
  Object.fromEntries(Object.entries(value).filter((e): e is [string, string] => typeof e[1] === 'string'));

/** What a new project file must be told; the rest has defaults. */
export type NewProject = Pick<ProjectFile, 'id' | 'name' | 'title' | 'created' | 'crs' | 'folders'> & Partial<ProjectFile>;

/** A new project file as text. */
export function writeProjectFile(p: NewProject): string {
  const value = {
    format: PROJECT_FORMAT,
    id: p.id,
    name: p.name,
    title: p.title,
    summary: p.summary ?? '',
    created: p.created,
    crs: p.crs,
    storedForm: p.storedForm ?? 'relative',
    workingGeodatabase: p.workingGeodatabase ?? null,
    folders: p.folders,
    links: p.links ?? [],
    services: [],
    ...(p.naming ? { naming: p.naming } : {}),
  };
  return `${JSON.stringify(value, null, 2)}\n`;
}
