import { identifyCrs } from '../../crs/identify.js';
import type { CrsTable } from '../../crs/crs-table.js';
import { unreadable, type Description, type FileGroup } from '../../dataset/dataset.js';
import { describeHead } from '../../raster/describe-head.js';
import { parseAuxXml } from '../../raster/georeference.js';
import { sideText, type Open } from '../../raster/side-files.js';

const MOST_NAMED = 5;

/**
 * A raster put together from others by an XML text (common practice of several programs): its size, bands, place, CRS, and what it is
 * made of. Its pixels are not read.
 */
export function describeVrt(group: FileGroup, open: Open, table: CrsTable): Description {
  const xml = sideText(group.path, open);
  const [head] = /<VRTDataset\b[^>]*>/.exec(xml) ?? [];
  const size = (name: string): number => Number(new RegExp(`\\b${name}="(\\d+)"`).exec(head ?? '')?.[1]);
  const [width, height] = [size('rasterXSize'), size('rasterYSize')];
  if (!(width > 0 && height > 0))
    return unreadable('raster', `${group.path} is no virtual raster: it states no size. Virtual tables are not read here.`);
  const { transform, wkt } = parseAuxXml(xml);
  const bands = xml.match(/<VRTRasterBand\b/g)?.length ?? 0;
  const described = describeHead(group, { width, height, bands, transform, crs: wkt === null ? null : identifyCrs(wkt, table) });
  const sources = [...new Set([...xml.matchAll(/<SourceFilename\b[^>]*>([^<]*)</g)].map(([, name]) => name!.trim()))];
  const shown = sources.slice(0, MOST_NAMED).join(', ') + (sources.length > MOST_NAMED ? ' and more' : '');
  const message = `${group.path} is put together from ${sources.length} ${sources.length === 1 ? 'file' : 'files'}: ${shown}. It is listed, not drawn.`;
  return { ...described, findings: [...described.findings, { code: 'virtual', message }] };
}
