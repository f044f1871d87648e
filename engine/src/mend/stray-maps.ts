import { byCodePoint, isMapFile, type Place } from '@rootmap/core';
import { basename, join } from '../disk/native-path.js';
import { readFileSync } from '../disk/files.js';
import { pathOf } from '../places/places.js';
import { projectFileIn, confinementOf } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import { outermost } from './search.js';

/** Folders that are looked into before a look through all places stops by itself. */
const MOST_FOLDERS = 50_000;

interface MapInPlaces {
  /** Real path. */
  readonly path: string;
  readonly isInProject: boolean;
}

export interface MapsInPlaces {
  readonly maps: readonly MapInPlaces[];
  /** The places hold more than is looked at unasked. */
  readonly isStopped: boolean;
}

/** Every map file in the places that are there, by code point. `onFolder` is called between folders; throwing from it ends the look. */
export function mapsInPlaces(places: readonly Place[], onFolder: (path: string) => void = () => undefined): MapsInPlaces {
  const maps: MapInPlaces[] = [];
  const enough = new Error('enough');
  let folders = 0;
  const look = (folder: string, isAbove: boolean): void => {
    const isInProject = isAbove || projectFileIn(folder) !== null;
    const { files, nested } = listFiles(folder, {
      confinedTo: confinementOf(folder, places),
      closely: (names) => new Set(names.filter(isMapFile)),
      onFolder: (path) => {
        if (++folders > MOST_FOLDERS) throw enough;
        onFolder(join(folder, path));
      },
    });
    // A container of another program is looked at whole, so other files may be among them.
    for (const { path } of files) if (isMapFile(path)) maps.push({ path: join(folder, path), isInProject });
    for (const inner of nested) look(join(folder, inner), true);
  };
  let isStopped = false;
  try {
    for (const folder of outermost(places.filter((p) => p.present && p.root.segments.length > 0).map(pathOf))) look(folder, false);
  } catch (error) {
    if (error !== enough) throw error;
    isStopped = true;
  }
  return { maps: maps.sort((a, b) => byCodePoint(a.path, b.path)), isStopped };
}

const withoutMark = (text: string): string => text.replace(/^\uFEFF/, '');

/** The map files in the places that have this name and this text: where a file that was dropped lies. */
export function findMap(places: readonly Place[], name: string, text: string, onFolder?: (path: string) => void): string[] {
  const wanted = withoutMark(text);
  return mapsInPlaces(places, onFolder)
    .maps.map((m) => m.path)
    .filter((path) => basename(path) === name && withoutMark(readFileSync(path, 'utf8')) === wanted);
}
