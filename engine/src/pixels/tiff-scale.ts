import type { AuxBand, TiffTags } from '@rootmap/core';

/** What a pixel's number stands for: number × factor + offset. */
export interface Scale {
  readonly factor: number;
  readonly offset: number;
}

/** Metadata that GDAL's TIFF driver keeps as XML: `<Item name="SCALE" sample="0" role="scale">0.1</Item>`. */
const METADATA = 42112;

/**
 * Null: its numbers stand for themselves.
 * @param aux counts where the file itself is silent
 * @param band from 0
 */
export function scaleOf(tags: TiffTags, aux: AuxBand | null, band: number): Scale | null {
  const text = tags.texts.get(METADATA) ?? '';
  const number = (role: string): number | null => {
    for (const [, attributes, value] of text.matchAll(/<Item\s([^>]*)>([^<]*)<\/Item>/g))
      if (attributes!.includes(`role="${role}"`) && attributes!.includes(`sample="${band}"`)) return Number(value);
    return null;
  };
  const [factor, offset] = [number('scale') ?? aux?.factor ?? 1, number('offset') ?? aux?.offset ?? 0];
  if (!Number.isFinite(factor) || !Number.isFinite(offset)) return null;
  return factor === 1 && offset === 0 ? null : { factor, offset };
}
