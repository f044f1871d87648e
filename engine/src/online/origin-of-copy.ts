import { EMPTY_ORIGIN, resourceName, withOrigin, type ServiceItem } from '@rootmap/core';
import { basename, dirname, join } from '../disk/native-path.js';
import { writeFileSync } from '../disk/files.js';
import { RECORDS } from '../move/records.js';
import type { Copied, CopyOrder } from './copy-features.js';

/** Writes down beside gathered records where they are from, so that it goes along into the geodatabase. */
export function noteOriginOf(
  copied: Copied,
  { layer, degrees }: Pick<CopyOrder, 'layer' | 'degrees'>,
  of: { readonly item: ServiceItem | null; readonly service: string; readonly publisher: string | null },
): void {
  const { item, service, publisher } = of;
  const origin = {
    ...EMPTY_ORIGIN,
    title: item?.title ?? copied.name,
    publisher: item?.publisher ?? publisher ?? service,
    address: layer,
    fetched: new Date().toISOString().slice(0, 10),
    licence: item?.licence ?? '',
    attribution: item?.attribution ?? '',
    notes: noteOf(copied, service, degrees),
    edition: { ...copied.edition, ...(degrees ? { degrees } : {}) },
  };
  const file = basename(copied.file);
  const resources = [withOrigin({ name: resourceName(file), path: file }, origin)];
  writeFileSync(join(dirname(copied.file), RECORDS), JSON.stringify({ resources }));
}

function noteOf({ came, told }: Copied, service: string, degrees: readonly number[] | null): string {
  const count = told !== null && told !== came ? `${came} records, of ${told} that the server told of` : `${came} records`;
  const where = degrees ? `, in ${degrees.map((d) => d.toFixed(5)).join(', ')} (west, south, east, north)` : '';
  return `Copied from the service ${service}: ${count}${where}.`;
}
