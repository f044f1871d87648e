import { locationKey, rewriteStyle, type Location, type Moves, type Place } from '@rootmap/core';
import { isBelow } from '../disk/native-path.js';
import { readFileSync } from '../disk/files.js';
import type { PlannedWrite } from '../changes/change.js';
import { pathOfReference, readStyleFile } from '../project/layer-styles.js';
import type { KnownProject } from './known-maps.js';

/** Styles in files of their own, in known projects, whose pictures are told otherwise after the move. */
export function relocateStyles(
  projects: readonly KnownProject[],
  moves: Moves,
  places: readonly Place[],
  actual: (location: Location) => Location,
): PlannedWrite[] {
  const seen = new Set<string>();
  const writes: PlannedWrite[] = [];
  for (const { maps, root, project, projectFile } of projects) {
    const scope = { places, root, project, projectFile, named: root, maps: [] };
    for (const map of maps)
      for (const { href, role } of map.file.layers.flatMap((l) => l.others)) {
        const at = role === 'style' ? pathOfReference(href, map.location, scope) : null;
        if (!at || seen.has(locationKey(at.location)) || !projects.some((p) => isBelow(p.root, at.path))) continue;
        seen.add(locationKey(at.location));
        const text = readStyleFile(at.path);
        const style = text === null ? null : rewriteStyle(text, at.location, moves, places, actual);
        if (!style) continue;
        const before = readFileSync(at.path);
        if (!before.equals(Buffer.from(text!, 'utf8'))) continue; // in another encoding: writing it would change more
        writes.push({ kind: 'write', path: at.path, before, after: Buffer.from(style.text, 'utf8') });
      }
  }
  return writes;
}
