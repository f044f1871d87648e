import {
  absoluteAddress,
  locate,
  locateHere,
  must,
  parseAddress,
  patchProject,
  relativize,
  toFileUri,
  type Location,
  type Place,
  type ProjectLink,
  type Moves,
  joined,
  partsOf,
} from '@rootmap/core';
import { dirname, join, isBelow, toAddress } from '../disk/native-path.js';
import type { PlannedWrite } from '../changes/change.js';
import type { KnownProject } from './known-maps.js';

const below = (root: Location, path: string): Location => ({ place: root.place, segments: [...root.segments, ...partsOf(path)] });
const sameLocation = (a: Location, b: Location): boolean => a.place === b.place && joined(a.segments) === joined(b.segments);

/** A path from the root, if it is below it; null: it went out of the root. */
function fromRoot(root: Location, location: Location): string | null {
  if (root.place !== location.place || !root.segments.every((s, i) => s === location.segments[i])) return null;
  return joined(location.segments.slice(root.segments.length)) || null;
}

/** What a project file records of folders, links and the working geodatabase follows what moves. */
export function relocateProject(p: KnownProject, moves: Moves, places: readonly Place[]): PlannedWrite[] {
  const { project, projectFile, projectBytes } = p;
  if (!project || !projectFile || !projectBytes) return [];
  const rootAfter = moves.of(p.location);
  const after = (path: string): string | null => fromRoot(rootAfter, moves.of(below(p.location, path)));
  const folders: Record<string, string> = {};
  for (const [path, role] of Object.entries(project.folders)) {
    const now = after(path);
    if (now !== null) folders[now] = role;
  }
  const links = project.links.map((link) => relocateLink(link, p, rootAfter, moves, places));
  const container = project.workingGeodatabase;
  const members = {
    ...(JSON.stringify(folders) === JSON.stringify(project.folders) ? {} : { folders }),
    ...(JSON.stringify(links) === JSON.stringify(project.links) ? {} : { links }),
    ...(container !== null && after(container) !== container ? { workingGeodatabase: after(container) } : {}),
  };
  if (Object.keys(members).length === 0) return [];
  const text = must(patchProject(projectFile, projectBytes.toString('utf8'), members));
  return [{ kind: 'write', path: projectFile, before: projectBytes, after: Buffer.from(text, 'utf8') }];
}

function relocateLink(link: ProjectLink, p: KnownProject, rootAfter: Location, moves: Moves, places: readonly Place[]): ProjectLink {
  let { path, address } = link;
  if (path !== null) {
    const target = locateHere(toAddress(join(p.root, path)), places);
    const now = target && moves.of(target);
    if (target && now && (!sameLocation(target, now) || !sameLocation(rootAfter, p.location)))
      path = now.place === rootAfter.place ? decodeURI(relativize(rootAfter.segments, now.segments, null)) : null;
  }
  if (address !== null) {
    const parsed = parseAddress(address);
    const target = parsed.ok ? locate(parsed.value, places) : null;
    const now = target && moves.of(target);
    if (target && now && !sameLocation(target, now)) address = toFileUri(absoluteAddress(now, places));
  }
  return path === link.path && address === link.address ? link : { ...link, path, address };
}

/** The project that a path belongs to: the one with the longest root above it. */
export const ownerOf = <P extends { readonly root: string }>(path: string, projects: readonly P[]): P | null =>
  projects
    .filter((p) => path === p.root || dirname(path) === p.root || isBelow(p.root, path))
    .sort((a, b) => b.root.length - a.root.length)[0] ?? null;
