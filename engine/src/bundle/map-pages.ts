import { statSync } from 'node:fs';
import { folderOfRole, joined, nameOf, partsOf, type SendChoices } from '@rootmap/core';
import { basename, join } from '../disk/native-path.js';
import { MOST_NOTE_BYTES, readFileSync } from '../disk/files.js';
import { isMissing } from '../disk/disk-problem.js';
import { hashOfBytes } from '../maps/view-map-doc.js';
import type { MapSeen } from '../project/read-maps.js';
import type { BundleFile } from './bundle-file.js';
import type { Needs } from './needs-of-maps.js';

/** A map that draws on servers, and the picture of it that goes along in their place. */
export interface MapPage {
  /** Real path of the map. */
  readonly map: string;
  readonly title: string;
  /** Null: none was drawn of the map as it stands. */
  readonly drawn: PageNote | null;
  readonly file: BundleFile | null;
}
export interface PageNote {
  readonly ms: number;
  /** Titles of layers that are not on it. */
  readonly without: readonly string[];
}

/** Where pictures of maps are kept, below the data folder. */
export const mapPicturesIn = (dataFolder: string): string => join(dataFolder, 'cache', 'maps');

/** Where the picture of a map is kept, with its note beside it: by the hash of the map, so that it is of this state of it. */
export const pageOf = (folder: string, hash: string): { readonly png: string; readonly note: string } => ({
  png: join(folder, `${hash}.page.png`),
  note: join(folder, `${hash}.page.json`),
});

const FOLDER = 'pictures';

/** @param folder where pages are kept; null: nobody draws any here */
export function mapPages(
  maps: readonly MapSeen[],
  services: Needs['services'],
  folder: string | null,
  { arrange }: SendChoices,
): MapPage[] {
  const drawing = new Set(services.map((s) => s.map));
  const taken = new Set<string>();
  const into = arrange ? [...partsOf(folderOfRole('exports', arrange)?.path ?? ''), FOLDER] : [FOLDER];
  return maps
    .filter((m) => drawing.has(m.path))
    .map((map): MapPage => {
      const common = { map: map.path, title: map.file.title };
      const kept = folder === null ? null : keptPage(folder, hashOfBytes(readFileSync(map.path)));
      if (!kept) return { ...common, drawn: null, file: null };
      const stem = basename(map.path).replace(/\.owc\.json$/i, '');
      const to = freePath(into, stem, taken);
      const { size, mtimeMs } = statSync(kept.png);
      const file: BundleFile = {
        source: kept.png,
        content: null,
        to,
        asIs: '',
        bytes: size,
        sourceBytes: size,
        modifiedMs: mtimeMs,
        from: 'made',
        role: 'exports',
        isMain: false,
        uses: [],
      };
      return { ...common, drawn: kept.drawn, file };
    });
}

function freePath(folder: readonly string[], stem: string, taken: Set<string>): string {
  for (let n = 1; ; n++) {
    const path = joined([...folder, nameOf(`${stem}${n === 1 ? '' : `_${n}`}.png`)]);
    if (taken.has(path.toLowerCase())) continue;
    taken.add(path.toLowerCase());
    return path;
  }
}

function keptPage(folder: string, hash: string): { png: string; drawn: PageNote } | null {
  const { png, note } = pageOf(folder, hash);
  try {
    const told = JSON.parse(readFileSync(note, 'utf8', MOST_NOTE_BYTES)) as PageNote;
    statSync(png);
    return { png, drawn: told };
  } catch (error) {
    if (!isMissing(error)) throw error;
    return null;
  }
}
