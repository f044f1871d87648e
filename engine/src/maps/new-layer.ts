import {
  fingerprintOf,
  isBelow,
  splitName,
  storeReference,
  type Fingerprint,
  type Location,
  type NewLayer,
  type StoredForm,
  joined,
} from '@rootmap/core';
import { basename, join } from '../disk/native-path.js';
import { linkLocations, locationOf, type Scope } from '../project/scope.js';
import type { FoundDataset } from '../project/find-dataset.js';

/** The title that a layer of a dataset gets: its table or its file, in words. */
export const titleOf = ({ dataset }: FoundDataset): string =>
  (dataset.table ?? splitName(basename(dataset.group.path)).stem).replaceAll('_', ' ');

/** A layer for a dataset, with its reference from the map in the form that is wanted, and through which link it comes. */
export function newLayer(
  scope: Scope,
  found: FoundDataset,
  map: Location,
  form: StoredForm,
  id: string,
  fingerprint: Fingerprint = fingerprintOf(found.dataset.group, found.dataset),
): NewLayer {
  const { group, table } = found.dataset;
  const target = locationOf(join(found.folder, group.path), scope.places);
  const link = linkLocations(scope).find((l) => isBelow(l.location, target, scope.places));
  return {
    id,
    title: titleOf(found),
    format: group.format,
    href: storeReference(map, target, table, form, scope.places).href,
    fingerprint,
    ...(link ? { link: { name: link.name, path: joined(target.segments.slice(link.location.segments.length)) } } : {}),
  };
}
