import { isInScale, type Label, type LayerSymbol, type LookRule, type Mark } from '@rootmap/core';
import { Circle, Fill, Icon, RegularShape, Stroke, Style, Text } from 'ol/style.js';
import type ImageStyle from 'ol/style/Image.js';

/** A feature of a tile, as far as drawing needs it. */
export interface TileShape {
  get(name: string): unknown;
  getType?(): string;
  getGeometry?(): { getType(): string } | undefined;
}

export function withAlpha(hex: string, opacity: number): string {
  const n = parseInt(hex.slice(1), 16);
  return `rgba(${n >> 16},${(n >> 8) & 255},${n & 255},${opacity})`;
}

const strokeOf = (s: LayerSymbol): Stroke | undefined =>
  s.stroke === null || s.strokeWidth === 0
    ? undefined
    : new Stroke({
        color: withAlpha(s.stroke, s.strokeOpacity),
        width: s.strokeWidth,
        lineCap: 'round',
        lineJoin: 'round',
        ...(s.dash ? { lineDash: [...s.dash] } : {}),
      });
const fillOf = (s: LayerSymbol): Fill | undefined => (s.fill === null ? undefined : new Fill({ color: withAlpha(s.fill, s.fillOpacity) }));

const SHAPES: Readonly<Record<Exclude<Mark, 'circle'>, { points: number; angle: number; inner?: number; grow: number }>> = {
  square: { points: 4, angle: Math.PI / 4, grow: Math.SQRT2 },
  triangle: { points: 3, angle: 0, grow: 1.15 },
  star: { points: 5, angle: 0, inner: 0.42, grow: 1.1 },
  cross: { points: 4, angle: 0, inner: 0, grow: 1 },
  x: { points: 4, angle: Math.PI / 4, inner: 0, grow: 1 },
};

export function imageOf(s: LayerSymbol, pictureUrl: (href: string) => string | null): ImageStyle {
  const url = s.picture === null ? null : pictureUrl(s.picture);
  if (url !== null) return new Icon({ src: url, width: s.size });
  const [fill, stroke] = [fillOf(s), strokeOf(s)];
  const own = { ...(fill ? { fill } : {}), ...(stroke ? { stroke } : {}) };
  if (s.mark === 'circle') return new Circle({ radius: s.size / 2, ...own });
  const { points, angle, inner, grow } = SHAPES[s.mark];
  const radius = (s.size / 2) * grow;
  const line = inner === 0 ? { stroke: stroke ?? new Stroke({ color: withAlpha(s.fill ?? '#000000', 1), width: 1.5 }) } : {};
  return new RegularShape({ points, radius, angle, ...(inner === undefined ? {} : { radius2: radius * inner }), ...own, ...line });
}

/** One symbol as the styles of a point, a line and an area. */
interface SymbolStyles {
  readonly point: Style;
  readonly line: Style;
  readonly area: Style;
  /** What is too small to have a shape. */
  readonly cells: Style;
}

function stylesOf(s: LayerSymbol, pictureUrl: (href: string) => string | null): SymbolStyles {
  const [fill, stroke] = [fillOf(s), strokeOf(s)];
  const tone = s.fill ?? s.stroke ?? '#000000';
  const line = stroke ?? new Stroke({ color: withAlpha(tone, 1), width: Math.max(1, s.strokeWidth) });
  return {
    point: new Style({ image: imageOf(s, pictureUrl) }),
    line: new Style({ stroke: line }),
    area: new Style({ ...(fill ? { fill } : {}), ...(stroke ? { stroke } : {}) }),
    cells: new Style({ fill: new Fill({ color: withAlpha(tone, Math.min(1, Math.max(0.6, s.fillOpacity + 0.35))) }) }),
  };
}

const typeOf = (shape: TileShape): string => shape.getType?.() ?? shape.getGeometry?.()?.getType() ?? '';

/**
 * Draws the shapes of a layer: a feature says its class, the class says the rules that draw it.
 * @param classes rules of each class; null: every feature is drawn by every rule
 * @param scaleNow 1:n of the screen, for rules with limits
 */
export function shapeStyle(
  rules: readonly LookRule[],
  classes: readonly (readonly number[])[] | null,
  scaleNow: () => number,
  pictureUrl: (href: string) => string | null,
): (shape: TileShape) => Style[] | undefined {
  const styles = rules.map((r) => stylesOf(r.symbol, pictureUrl));
  const all = rules.map((_, i) => i);
  const hasLimits = rules.some((r) => r.minScale !== null || r.maxScale !== null);
  const known = new Map<string, Style[]>();
  return (shape) => {
    if (shape.get('layer') === 'labels') return undefined;
    const c = classes === null ? 0 : Number(shape.get('c') ?? 0);
    const kind =
      shape.get('cells') === true ? 'cells' : /Point/.test(typeOf(shape)) ? 'point' : /Line/.test(typeOf(shape)) ? 'line' : 'area';
    const wanted = classes === null ? all : (classes[c] ?? []);
    if (hasLimits) return wanted.filter((i) => isInScale(rules[i]!, scaleNow())).map((i) => styles[i]![kind]);
    const key = `${c} ${kind}`;
    let found = known.get(key);
    if (!found) known.set(key, (found = wanted.map((i) => styles[i]![kind])));
    return found;
  };
}

export function labelStyle(label: Label, font: string): (shape: TileShape) => Style | undefined {
  const known = new Map<string, Style>();
  return (shape) => {
    if (shape.get('layer') !== 'labels') return undefined;
    const told = shape.get('l');
    const text = typeof told === 'string' ? told : '';
    let style = known.get(text);
    if (!style) {
      if (known.size > 5000) known.clear();
      known.set(text, (style = new Style({ text: textOf(label, text, font) })));
    }
    return style;
  };
}

function textOf(label: Label, text: string, font: string): Text {
  const along = label.placement === 'along';
  return new Text({
    text,
    font: `${label.size}px ${font}`,
    fill: new Fill({ color: label.colour }),
    ...(label.halo ? { stroke: new Stroke({ color: label.halo.colour, width: label.halo.width * 2 }) } : {}),
    ...(along ? { placement: 'line' as const, maxAngle: Math.PI / 3 } : {}),
    ...(label.placement === 'right' ? { textAlign: 'left' as const, offsetX: 8 } : {}),
    ...(label.placement === 'above' ? { textBaseline: 'bottom' as const, offsetY: -8 } : {}),
    overflow: !along,
  });
}
