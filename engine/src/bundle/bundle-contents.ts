import {
  EMPTY_ORIGIN,
  nameOf,
  patchProject,
  patchText,
  rewriteMapForBundle,
  rewriteStyleForBundle,
  topOf,
  must,
  type InBundle,
} from '@rootmap/core';
import { below, join } from '../disk/native-path.js';
import { readFileSync } from '../disk/files.js';
import type { Origins } from '../folders/origins.js';
import { RECORDS } from '../move/records.js';
import { pathOfReference, readStyleFile } from '../project/layer-styles.js';
import type { MapSeen } from '../project/read-maps.js';
import { locationOf, type RootedScope } from '../project/scope.js';
import { tableFor } from './gather.js';
import { looksBeside } from './looks-beside.js';
import { realOrNull } from './needs-of-maps.js';
import type { PackPlan } from './pack-plan.js';
import type { PackRequest } from './pack-request.js';
import { rolesInBundle, type Unit } from './place-files.js';
import { recordsInBundle, type MovedData } from './records-in-bundle.js';
import { toldPath } from './told-path.js';

/** What is written for a bundle, since it stands otherwise there: maps, styles, the project file, records of origin, looks. */
export class BundleContents {
  /** @param placed where each file stands in the bundle, by its real path */
  constructor(
    private readonly scope: RootedScope,
    private readonly request: PackRequest,
    private readonly origins: Origins,
    private readonly placed: ReadonlyMap<string, string>,
    private readonly gathered: PackPlan['gathered'],
  ) {}

  /** What goes in instead of the bytes on the disk, by real path: maps, styles and the project file. */
  rewritten(maps: readonly MapSeen[], along: readonly Unit[]): Map<string, Buffer> {
    const contents = new Map<string, Buffer>();
    const finder = (from: MapSeen['location']) => this.finder(from);
    for (const map of maps) {
      const to = this.placed.get(map.path);
      if (to === undefined) continue;
      const { patches } = rewriteMapForBundle(map.file, to, finder(map.location));
      if (patches.length > 0) contents.set(map.path, Buffer.from(patchText(map.file.text, patches), 'utf8'));
    }
    for (const [source, to] of this.placed) {
      if (!/\.(sld|se)$/i.test(source)) continue;
      const text = readStyleFile(source);
      const after = text === null ? null : rewriteStyleForBundle(text, to, finder(locationOf(source, this.scope.places)));
      if (after !== null) contents.set(source, Buffer.from(after, 'utf8'));
    }
    const project = this.projectFile(along);
    if (project && this.scope.projectFile) contents.set(this.scope.projectFile, project);
    return contents;
  }

  /** Records of origin that are not carried as they are: of what comes along, and of all data where it is arranged anew. */
  records(units: readonly Unit[]): Map<string, string> {
    const isArranged = this.request.choices.arrange !== null;
    const moved = units
      .filter((u) => u.from === 'along' || (isArranged && u.from === 'inside' && nameOf(u.files[0]!.path) !== RECORDS))
      .map((u): MovedData => {
        const { source } = u.files[0]!;
        return {
          source,
          to: this.placed.get(source)!,
          origins: this.origins.allOf(source),
          cameFrom: u.from === 'along' ? toldPath(source, this.scope) : null,
        };
      });
    return recordsInBundle([...moved, ...this.madeTables()]);
  }

  /** Tables that were made, each with what is written down of what it was made of. */
  private madeTables(): MovedData[] {
    const { gathered } = this;
    return (gathered?.tables ?? []).map(({ name, main, table }) => ({
      source: main,
      to: gathered!.path,
      isMade: true,
      origins: [{ table: name, origin: this.origins.of(main, table) ?? { ...EMPTY_ORIGIN, isReobtainable: false } }],
      cameFrom: toldPath(main, this.scope),
    }));
  }

  /** Looks as files beside their data, by path in the bundle. */
  looks(maps: readonly MapSeen[]): Map<string, string> {
    if (!this.request.choices.looksBeside && this.request.choices.layer === null) return new Map();
    const dataOf = (map: MapSeen, id: string): string | null => {
      const reference = map.layers.find((l) => l.layer.id === id)?.layer.reference;
      return reference ? (this.finder(map.location)(reference.href)?.path ?? null) : null;
    };
    const taken = new Set(this.placed.values());
    return looksBeside(
      maps,
      dataOf,
      (map, href) => this.finder(map.location)(href),
      (path) => taken.has(path),
    );
  }

  /** Where something stands in the bundle, by a reference to it from a file here. */
  private finder(from: MapSeen['location']): InBundle {
    return (href) => {
      const at = pathOfReference(href, from, this.scope);
      if (at === null) return null;
      const table = this.gathered && tableFor(this.gathered, realOrNull(at.path) ?? at.path, href);
      if (this.gathered && table !== null) return { path: this.gathered.path, table };
      const path = this.placed.get(at.path) ?? this.placedReal(at.path);
      return path === null ? null : { path, table: null };
    };
  }

  /** A reference may reach its data in other letters, through a link, or mean a folder that is one dataset. */
  private placedReal(path: string): string | null {
    const known = this.placed.get(realOrNull(path) ?? path);
    if (known !== undefined) return known;
    const inside = [...this.placed].find(([source]) => below(path, source) !== null && source !== path);
    if (!inside) return null;
    const rest = below(path, inside[0])!;
    return inside[1].slice(0, inside[1].length - rest.length - 1);
  }

  private projectFile(along: readonly Unit[]): Buffer | null {
    const { projectFile, project, root } = this.scope;
    if (!projectFile || !project) return null;
    const { choices } = this.request;
    const [first] = along;
    const top = first ? topOf(first.files[0]!.path) : this.gathered ? topOf(this.gathered.path) : null;
    const folders = rolesInBundle(choices, this.scope.project?.folders ?? {}, top);
    const working =
      project.workingGeodatabase === null ? null : (this.placed.get(join(root, project.workingGeodatabase)) ?? project.workingGeodatabase);
    const members = {
      ...(folders ? { folders } : {}),
      ...(working === project.workingGeodatabase ? {} : { workingGeodatabase: working }),
      ...(choices.along === 'all' && project.links.length > 0 ? { links: [] } : {}),
    };
    if (Object.keys(members).length === 0) return null;
    const text = readFileSync(projectFile).toString('utf8');
    return Buffer.from(must(patchProject(projectFile, text, members)), 'utf8');
  }
}
