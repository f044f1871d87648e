import { createHash } from 'node:crypto';
import type { FileGroup, Hasher, NewHasher, Platform } from '@rootmap/core';
import { startOf } from '../disk/native-path.js';
import { crsTable } from '../disk/crs-table.js';
import { OpenFiles } from '../disk/file-source.js';
import { inflate } from '../disk/inflate.js';
import { readNetcdf4 } from './netcdf4-header.js';
import { describeGeopackage } from '../geopackage/describe-geopackage.js';
import { geopackageFeatures } from '../geopackage/geopackage-features.js';
import { fullGeopackageTable } from '../geopackage/full-geopackage-table.js';

export const newSha256: NewHasher = (): Hasher => {
  const hash = createHash('sha256');
  return { update: (bytes) => void hash.update(bytes), digest: () => hash.digest('hex') };
};

/** Reading with Node, for files below one folder. `close` when the piece of work is done. */
export interface NodePlatform extends Platform {
  close(): void;
}

/**
 * @param folder real path of the folder that the paths of the file entries start from
 * @param group files whose sizes a listing has told just now
 */
export function platformBelow(folder: string, group?: FileGroup): NodePlatform {
  const files = new OpenFiles();
  const base = startOf(folder);
  const real = (path: string): string => base + path;
  const known = group && [group.main, ...group.companions, ...group.borrowed];
  return {
    open: (path) => files.source(real(path), known?.find((f) => f.path === path)?.bytes),
    crs: crsTable,
    newHasher: newSha256,
    inflate,
    describeGeodatabase: (group) => describeGeopackage(real(group.path), group.path, crsTable),
    geodatabaseFeatures: (group, table, fields, wanted) => geopackageFeatures(real(group.path), table, fields, wanted),
    fullGeodatabaseTable: (group, table, description) => fullGeopackageTable(real(group.path), table, description, newSha256),
    readNetcdf4: (group) => readNetcdf4(real(group.path)),
    close: () => files.close(),
  };
}
