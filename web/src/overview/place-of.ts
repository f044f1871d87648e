import type { DatasetView, LayerView } from '@rootmap/core/contract';

export type Datasets = ReadonlyMap<string, DatasetView>;

/** Where a layer's data is, as a box of the right side, a folder in it, and a row. */
export function placeOf(l: LayerView, datasets: Datasets): { readonly box: string; readonly folder: string; readonly row: string } {
  if (l.reach === 'service') {
    const host = hostOf(l.href ?? '');
    return { box: 'service', folder: host, row: `service:${host}` };
  }
  const d = l.dataset === null ? undefined : datasets.get(l.dataset);
  const box = l.link ? `link:${l.link}` : l.reach === 'inside' ? 'root' : 'outside';
  const folder = d ? d.folder : (l.recordedFolder ?? '');
  return { box, folder, row: d ? d.id : `elsewhere:${l.resolved ?? l.href}` };
}

export const hostOf = (href: string): string => /^https?:\/\/([^/?#]+)/i.exec(href)?.[1] ?? href;
