import type { ByteSource } from '../bytes/byte-source.js';
import { identifyCrs } from '../crs/identify.js';
import type { CrsTable } from '../crs/crs-table.js';
import type { Crs, FileEntry, FileGroup } from '../dataset/dataset.js';
import { endingOf } from '../dataset/formats.js';
import { parseAuxBand, parseAuxXml, parseWorldFile, type AuxBand, type Transform } from './georeference.js';

export type Open = (path: string) => ByteSource;
const WORLD = new Set(['tfw', 'tifw', 'tiffw', 'j2w', 'pgw', 'pngw', 'jgw', 'jpgw', 'wld']);
const LONGEST_SIDE_BYTES = 4 * 1024 * 1024;

export const sideText = (path: string, open: Open): string => new TextDecoder('utf-8').decode(open(path).read(0, LONGEST_SIDE_BYTES));

const sideFiles = (group: FileGroup) => [...group.companions, ...group.borrowed];

export const worldFileOf = (group: FileGroup): string | null => sideFiles(group).find((f) => WORLD.has(endingOf(f.path)))?.path ?? null;

export const auxXmlOf = (group: FileGroup): string | null => group.companions.find((f) => /\.aux\.xml$/i.test(f.path))?.path ?? null;

/** What a raster's `.aux.xml` says of its first band; null: there is none. */
export function auxBandOf(group: FileGroup, open: Open): AuxBand | null {
  const aux = auxXmlOf(group);
  return aux === null ? null : parseAuxBand(sideText(aux, open));
}

/** A file of a raster that has its whole name and an ending of its own: reduced pictures (`.ovr`), a mask (`.msk`). */
export const behindOf = (group: FileGroup, ending: 'ovr' | 'msk'): FileEntry | null =>
  group.companions.find((f) => f.path.toLowerCase() === `${group.path.toLowerCase()}.${ending}`) ?? null;

/** What the `.prj` beside says; null where there is none. */
export function readSidePrj(group: FileGroup, open: Open, table: CrsTable): Crs | null {
  const prj = sideFiles(group).find((f) => endingOf(f.path) === 'prj');
  return prj ? identifyCrs(sideText(prj.path, open), table) : null;
}

/** The side files' word on place and CRS, used where the image itself is silent. */
export function fromSideFiles(group: FileGroup, open: Open, table: CrsTable): { transform: Transform | null; crs: Crs | null } {
  const aux = auxXmlOf(group);
  const auxiliary = aux ? parseAuxXml(sideText(aux, open)) : null;
  const world = worldFileOf(group);
  return {
    transform: auxiliary?.transform ?? (world ? parseWorldFile(sideText(world, open)) : null),
    crs: readSidePrj(group, open, table) ?? (auxiliary?.wkt ? identifyCrs(auxiliary.wkt, table) : null),
  };
}
