import { sldParser, type StyleRule, type Symbolizer, type TextSymbolizer } from './style-model.js';
import type { Field } from '../dataset/dataset.js';
import { printFilter } from '../filter/print-filter.js';
import { lookOfRules } from '../look/look-of-rules.js';
import {
  MARKS,
  PLAIN_RASTER,
  plainSymbol,
  type Label,
  type LayerSymbol,
  type Look,
  type LookRule,
  type Mark,
  type RasterLook,
} from '../look/look.js';
import { fromStyleFilter } from './style-filter.js';
import { GREY } from './write-sld.js';

export interface ReadStyle {
  readonly look: Look | null;
  readonly label: Label | null;
  /** What of the style is drawn otherwise here. */
  readonly losses: readonly string[];
}

/** Reads SLD 1.0 or 1.1. Null: it is no style that can be read. Never throws. */
export async function readSld(text: string, fields: readonly Field[] | null): Promise<ReadStyle | null> {
  const version = /<(?:\w+:)?StyledLayerDescriptor[^>]*\sversion="1\.0/.test(text) ? '1.0.0' : '1.1.0';
  const read = await sldParser(version)
    .readStyle(text)
    .catch(() => null); // it is no XML, or no style
  const rules = read?.output?.rules;
  if (!rules || rules.length === 0) return null;
  const losses = new Set<string>();
  const all = rules.flatMap((r) => r.symbolizers);
  if (all.some(isComputed)) losses.add('colours, sizes and widths that are computed are drawn plainly');
  const rasters = all.filter((s) => s.kind === 'Raster');
  if (rasters[0]) {
    if (rasters.length > 1) losses.add(`of ${rasters.length} ways to draw the raster the first is taken`);
    return { look: rasterLook(rasters[0], losses), label: null, losses: [...losses] };
  }
  const elses = elsesIn(text);
  if (elses.includes(true) && elses.length !== rules.length) losses.add('rules for all others are drawn for every record');
  const drawn = rules.flatMap((r, i) => ruleOf(r, elses.length === rules.length && elses[i] === true, fields, losses));
  if (all.filter((s) => s.kind === 'Text').length > 1) losses.add('of several labels the first is drawn');
  return { look: drawn.length > 0 ? lookOfRules(drawn) : null, label: labelOf(rules), losses: [...losses] };
}

/** Of each rule of a style, whether it is for what no other rule draws (OGC 05-077r4, 10.1.4), which the library passes over. */
const elsesIn = (text: string): boolean[] =>
  [...text.replace(/<!--[\s\S]*?-->/g, '').matchAll(/<(\w+:)?Rule\b[^>]*>([\s\S]*?)<\/\1?Rule>/g)].map(([, , inner]) =>
    /<(\w+:)?ElseFilter\b/.test(inner!),
  );

/** Some property of it is a function of the record. */
const isComputed = (s: Symbolizer): boolean =>
  Object.values(s).some((v) => typeof v === 'object' && v !== null && !Array.isArray(v) && 'name' in v && 'args' in v);

function ruleOf(r: StyleRule, isElse: boolean, fields: readonly Field[] | null, losses: Set<string>): LookRule[] {
  const symbolizers = r.symbolizers.filter((s) => s.kind !== 'Text');
  if (symbolizers.length === 0) return [];
  const condition = r.filter === undefined ? null : fromStyleFilter(r.filter, fields);
  if (r.filter !== undefined && !condition) {
    losses.add(`the rule "${r.name}" has a condition that is not read here: it is left out`);
    return [];
  }
  const { min, max } = r.scaleDenominator ?? {};
  for (const [kind, what] of OVER_ONE_ANOTHER)
    if (symbolizers.filter((s) => s.kind === kind).length > 1) losses.add(`of ${what} over one another the last is drawn`);
  const symbol = symbolizers.reduce((s, z) => withSymbolizer(s, z, losses), EMPTY);
  return [{ title: r.name, filter: condition && printFilter(condition), isElse, minScale: numberOr(min), maxScale: numberOr(max), symbol }];
}

const OVER_ONE_ANOTHER = [
  ['Line', 'lines'],
  ['Fill', 'fills'],
  ['Mark', 'marks'],
  ['Icon', 'pictures'],
] as const;

const EMPTY: LayerSymbol = { ...plainSymbol('area'), fill: null, stroke: null, fillOpacity: 1, strokeWidth: 1 };
const numberOr = (v: unknown): number | null => (v === undefined || v === null || Number.isNaN(Number(v)) ? null : Number(v));
const textOr = (v: unknown): string | null => (typeof v === 'string' && v !== '' ? v : null);
const colourOr = (v: unknown): string | null => (typeof v === 'string' && /^#[0-9a-f]{6}$/i.test(v) ? v.toLowerCase() : null);
const dashOr = (v: unknown): readonly number[] | null => (Array.isArray(v) && v.length > 0 ? v.map(Number) : null);

function withSymbolizer(s: LayerSymbol, z: Symbolizer, losses: Set<string>): LayerSymbol {
  switch (z.kind) {
    case 'Fill':
      if (z.graphicFill) losses.add('patterns in areas are drawn as plain fills');
      return {
        ...s,
        fill: numberOr(z.fillOpacity) === 0 ? null : (colourOr(z.color) ?? s.fill ?? (z.graphicFill ? '#888888' : null)),
        fillOpacity: numberOr(z.fillOpacity) ?? numberOr(z.opacity) ?? 1,
        ...strokeOf(s, z.outlineColor, z.outlineWidth, z.outlineOpacity, z.outlineDasharray),
      };
    case 'Line':
      if (z.graphicStroke) losses.add('symbols along lines are drawn as plain lines');
      return { ...s, ...strokeOf(s, z.color ?? '#000000', z.width, z.opacity, z.dasharray) };
    case 'Mark': {
      const name = MARKS.find((m) => m === z.wellKnownName) ?? null;
      if (!name) losses.add(`the mark "${z.wellKnownName}" is drawn as a circle`);
      const diameter = numberOr(z.radius);
      return {
        ...s,
        mark: name ?? ('circle' satisfies Mark),
        size: diameter === null ? 6 : diameter * 2,
        fill: numberOr(z.fillOpacity) === 0 ? null : (colourOr(z.color) ?? '#808080'),
        fillOpacity: numberOr(z.fillOpacity) ?? numberOr(z.opacity) ?? 1,
        ...strokeOf(s, z.strokeColor, z.strokeWidth, z.strokeOpacity, z.strokeDasharray),
      };
    }
    case 'Icon':
      return { ...s, picture: textOr(z.image), size: numberOr(z.size) ?? 16 };
    default:
      return s;
  }
}

const strokeOf = (s: LayerSymbol, colour: unknown, width: unknown, opacity: unknown, dash: unknown): Partial<LayerSymbol> => ({
  stroke: colourOr(colour) ?? s.stroke,
  strokeWidth: numberOr(width) ?? 1,
  strokeOpacity: numberOr(opacity) ?? 1,
  dash: dashOr(dash),
});

function labelOf(rules: readonly StyleRule[]): Label | null {
  const z = rules.flatMap((r) => r.symbolizers).find((s): s is TextSymbolizer => s.kind === 'Text');
  const template = textOr(z?.label);
  if (!z || template === null) return null;
  const halo = colourOr(z.haloColor);
  return {
    template: template.replaceAll(/\{\{([^{}]+)\}\}/g, '{$1}'),
    size: numberOr(z.size) ?? 12,
    colour: colourOr(z.color) ?? '#000000',
    halo: halo === null ? null : { colour: halo, width: numberOr(z.haloWidth) ?? 1 },
    placement: z.placement === 'line' ? 'along' : z.anchor === 'left' ? 'right' : z.anchor === 'bottom' ? 'above' : 'over',
  };
}

function rasterLook(z: Extract<Symbolizer, { kind: 'Raster' }>, losses: Set<string>): RasterLook {
  const map = z.colorMap;
  const stops = (map?.colorMapEntries ?? []).flatMap((e) => {
    const [colour, value] = [colourOr(e.color), numberOr(e.quantity)];
    return colour === null || value === null ? [] : [{ value, colour, opacity: numberOr(e.opacity) ?? 1 }];
  });
  const channel = z.channelSelection?.grayChannel?.sourceChannelName;
  const { redChannel, greenChannel, blueChannel } = z.channelSelection ?? {};
  const composed = [redChannel, greenChannel, blueChannel].map((c) => numberOr(c?.sourceChannelName));
  const isComposed = composed.every((n): n is number => n !== null && Number.isInteger(n) && n > 0);
  if (!isComposed && redChannel)
    losses.add('bands that are put together as red, green and blue by other than their numbers are drawn as the file has them');
  if ((numberOr(z.opacity) ?? 1) < 1) losses.add('the opacity of the raster: that of the layer counts');
  if (z.contrastEnhancement) losses.add('the contrast is drawn as the numbers are');
  if (stops.length < (map?.colorMapEntries ?? []).length) losses.add('colours of the ramp that are computed are left out');
  const isGrey = stops.length === 2 && stops.every((s, i) => s.colour === GREY[i]) && map?.type !== 'intervals';
  return {
    ...PLAIN_RASTER,
    band: numberOr(channel) ?? 1,
    bands: isComposed ? (composed as unknown as [number, number, number]) : null,
    stretch: isGrey ? { from: stops[0]!.value, to: stops[1]!.value } : null,
    ramp: isGrey || stops.length === 0 ? null : stops,
    isStepped: map?.type === 'intervals' || map?.type === 'values',
  };
}
