import { printAddress, type Place } from '@rootmap/core';
import { pathOf } from './places.js';

/** A sentence in which real paths of places are as people know them: by the drive name of the place, where it has one. */
export function toldPaths(sentence: string, places: readonly Place[]): string {
  return places
    .flatMap((p) => (p.driveNames[0] && p.root.segments.length > 0 ? [[`${pathOf(p)}/`, printAddress(p.driveNames[0])] as const] : []))
    .sort(([a], [b]) => b.length - a.length)
    .reduce((told, [real, drive]) => told.replaceAll(real, drive.endsWith('/') ? drive : `${drive}/`), sentence);
}
