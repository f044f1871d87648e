import {
  sldParser,
  type FillSymbolizer,
  type IconSymbolizer,
  type LineSymbolizer,
  type MarkSymbolizer,
  type RasterSymbolizer,
  type StyleModel,
  type StyleRule,
  type Symbolizer,
  type TextSymbolizer,
} from './style-model.js';
import { parseFilter } from '../filter/parse-filter.js';
import { printField, printLiteral } from '../filter/print-filter.js';
import type { Label, LayerSymbol, Look, LookRule, RasterLook, ShapeKind, VectorLook } from '../look/look.js';
import { rulesOfLook } from '../look/rules-of-look.js';
import { toStyleFilter } from './style-filter.js';

/** The colours black and white as a grey stretch has them. */
export const GREY = ['#000000', '#ffffff'] as const;
const LABELS = 'labels';

/**
 * A look as SLD 1.1 with Symbology Encoding 1.1 (OGC 05-078r4, 05-077r4), so that other programs draw the same. Rasters are
 * written as SLD 1.0 (OGC 02-070), whose colour map most programs read.
 * @param kind what the layer's shapes are: it decides the symbolizers
 */
export async function writeSld(title: string, look: Look, kind: ShapeKind, label: Label | null): Promise<string> {
  const rules: StyleRule[] =
    look.kind === 'raster' ? [{ name: title, symbolizers: [rasterSymbolizer(look)] }] : vectorRules(look, kind, label);
  const style: StyleModel = { name: title, rules };
  const written = await sldParser(look.kind === 'raster' ? '1.0.0' : '1.1.0').writeStyle(style);
  if (written.output === undefined) throw new Error(`the style could not be written: ${written.errors?.map(String).join('; ') ?? ''}`);
  return look.kind === 'raster' ? asRaster(written.output, look) : written.output.replace(MARKED_FILTER, '<se:ElseFilter/>');
}

/** The library forgets the attribute that tells steps from a ramp, and the order that the schema of SLD 1.0 asks for. */
const asRaster = (sld: string, look: RasterLook): string =>
  (look.isStepped ? sld.replace('<ColorMap>', '<ColorMap type="intervals">') : sld).replace(
    /(\s*<ColorMap\b[\s\S]*<\/ColorMap>)(\s*<ChannelSelection>[\s\S]*<\/ChannelSelection>)/,
    '$2$1',
  );

/** The library knows no rule for all others: it writes a filter that nothing meets, and this is put in its place. */
const ELSE = 'rootmap-else';
const MARKED_FILTER = new RegExp(
  `<(\\w+:)?Filter\\b[^>]*>(?:(?!</(?:\\w+:)?Filter>)[\\s\\S])*${ELSE}(?:(?!</(?:\\w+:)?Filter>)[\\s\\S])*</(?:\\w+:)?Filter>`,
  'g',
);

function vectorRules(look: VectorLook, kind: ShapeKind, label: Label | null): StyleRule[] {
  const rules = rulesOfLook(look).map((r) => ruleOf(r, look, kind));
  return label ? [...rules, { name: LABELS, symbolizers: [textSymbolizer(label)] }] : rules;
}

function ruleOf(r: LookRule, look: VectorLook, kind: ShapeKind): StyleRule {
  const text = r.isElse && look.kind === 'by-value' ? elseFilter(look) : r.filter;
  const parsed = text === null ? null : parseFilter(text);
  const filter = r.isElse && look.kind === 'rules' ? ['==', ELSE, ELSE] : parsed?.ok ? toStyleFilter(parsed.condition) : null;
  const scale = {
    ...(r.minScale === null ? {} : { min: r.minScale }),
    ...(r.maxScale === null ? {} : { max: r.maxScale }),
  };
  return {
    name: r.title,
    ...(filter === null ? {} : { filter }),
    ...(Object.keys(scale).length > 0 ? { scaleDenominator: scale } : {}),
    symbolizers: symbolizersOf(r.symbol, kind),
  };
}

/** What no entry names, said as a filter: not every program knows an else. */
function elseFilter(look: Extract<VectorLook, { kind: 'by-value' }>): string {
  const field = printField(look.field);
  const named = look.entries.map((e) => (e.value === null ? `${field} IS NULL` : `${field} = ${printLiteral(e.value)}`));
  const negated = `NOT (${named.join(' OR ')})`;
  return look.entries.some((e) => e.value === null) ? negated : `${negated} OR ${field} IS NULL`;
}

function symbolizersOf(s: LayerSymbol, kind: ShapeKind): Symbolizer[] {
  const point = (): MarkSymbolizer | IconSymbolizer => (s.picture === null ? markOf(s) : { kind: 'Icon', image: s.picture, size: s.size });
  if (kind === 'point') return [point()];
  if (kind === 'line') return [lineOf(s)];
  return kind === 'area' ? [fillOf(s)] : [fillOf(s), lineOf(s), point()];
}

const fillOf = (s: LayerSymbol): FillSymbolizer => ({
  kind: 'Fill',
  ...(s.fill === null ? { fillOpacity: 0 } : { color: s.fill, fillOpacity: s.fillOpacity }),
  ...(s.stroke === null
    ? {}
    : {
        outlineColor: s.stroke,
        outlineWidth: s.strokeWidth,
        outlineOpacity: s.strokeOpacity,
        ...(s.dash ? { outlineDasharray: [...s.dash] } : {}),
      }),
});

const lineOf = (s: LayerSymbol): LineSymbolizer => ({
  kind: 'Line',
  color: s.stroke ?? s.fill ?? '#000000',
  width: s.strokeWidth,
  opacity: s.strokeOpacity,
  cap: 'round',
  join: 'round',
  ...(s.dash ? { dasharray: [...s.dash] } : {}),
});

const markOf = (s: LayerSymbol): MarkSymbolizer => ({
  kind: 'Mark',
  wellKnownName: s.mark,
  radius: s.size / 2,
  ...(s.fill === null ? { fillOpacity: 0 } : { color: s.fill, fillOpacity: s.fillOpacity }),
  ...(s.stroke === null ? {} : { strokeColor: s.stroke, strokeWidth: s.strokeWidth, strokeOpacity: s.strokeOpacity }),
});

const textSymbolizer = (l: Label): TextSymbolizer => ({
  kind: 'Text',
  label: l.template.replace(/\{([^{}]+)\}/g, '{{$1}}'),
  size: l.size,
  color: l.colour,
  font: ['sans-serif'],
  ...(l.halo ? { haloColor: l.halo.colour, haloWidth: l.halo.width } : {}),
  placement: l.placement === 'along' ? 'line' : 'point',
  ...(l.placement === 'right' ? { anchor: 'left', offset: [8, 0] } : l.placement === 'above' ? { anchor: 'bottom', offset: [0, 8] } : {}),
});

const channel = (band: number) => ({ sourceChannelName: String(band) });
const composed = ([red, green, blue]: readonly [number, number, number]) => ({
  redChannel: channel(red),
  greenChannel: channel(green),
  blueChannel: channel(blue),
});

function rasterSymbolizer(look: RasterLook): RasterSymbolizer {
  const stops =
    look.ramp ?? (look.stretch ? [look.stretch.from, look.stretch.to].map((value, i) => ({ value, colour: GREY[i]!, opacity: 1 })) : null);
  return {
    kind: 'Raster',
    opacity: 1,
    channelSelection: look.bands ? composed(look.bands) : { grayChannel: channel(look.band) },
    ...(stops && !look.bands
      ? {
          colorMap: {
            type: look.isStepped ? 'intervals' : 'ramp',
            colorMapEntries: stops.map((s) => ({ color: s.colour, quantity: s.value, opacity: s.opacity })),
          },
        }
      : {}),
  };
}
