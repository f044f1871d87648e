import SldStyleParser from 'geostyler-sld-parser';

/**
 * The exchange model of styles (GeoStyler style) as far as it is used here. It is written down once more because the
 * declarations that come with it do not resolve in this project's module system.
 */
export interface StyleModel {
  readonly name: string;
  readonly rules: readonly StyleRule[];
}
export interface StyleRule {
  readonly name: string;
  readonly filter?: StyleFilter;
  readonly scaleDenominator?: { readonly min?: unknown; readonly max?: unknown };
  readonly symbolizers: readonly Symbolizer[];
}
/** `['&&', …]`, `['==', field, value]`, `['<=x<=', field, low, high]`. */
export type StyleFilter = readonly unknown[];

export interface FillSymbolizer {
  readonly kind: 'Fill';
  readonly color?: unknown;
  readonly opacity?: unknown;
  readonly fillOpacity?: unknown;
  readonly outlineColor?: unknown;
  readonly outlineWidth?: unknown;
  readonly outlineOpacity?: unknown;
  readonly outlineDasharray?: unknown;
  readonly graphicFill?: unknown;
}
export interface LineSymbolizer {
  readonly kind: 'Line';
  readonly color?: unknown;
  readonly width?: unknown;
  readonly opacity?: unknown;
  readonly cap?: unknown;
  readonly join?: unknown;
  readonly dasharray?: unknown;
  readonly graphicStroke?: unknown;
}
export interface MarkSymbolizer {
  readonly kind: 'Mark';
  readonly wellKnownName: string;
  readonly radius?: unknown;
  readonly color?: unknown;
  readonly opacity?: unknown;
  readonly fillOpacity?: unknown;
  readonly strokeColor?: unknown;
  readonly strokeWidth?: unknown;
  readonly strokeOpacity?: unknown;
  readonly strokeDasharray?: unknown;
}
export interface IconSymbolizer {
  readonly kind: 'Icon';
  readonly image?: unknown;
  readonly size?: unknown;
}
export interface TextSymbolizer {
  readonly kind: 'Text';
  readonly label?: unknown;
  readonly size?: unknown;
  readonly color?: unknown;
  readonly font?: unknown;
  readonly haloColor?: unknown;
  readonly haloWidth?: unknown;
  readonly placement?: unknown;
  readonly anchor?: unknown;
  readonly offset?: unknown;
}
interface Channel {
  readonly sourceChannelName?: unknown;
}
export interface RasterSymbolizer {
  readonly kind: 'Raster';
  readonly opacity?: unknown;
  readonly channelSelection?: {
    readonly grayChannel?: Channel;
    readonly redChannel?: Channel;
    readonly greenChannel?: Channel;
    readonly blueChannel?: Channel;
  };
  readonly contrastEnhancement?: unknown;
  readonly colorMap?: {
    readonly type?: unknown;
    readonly colorMapEntries?: readonly { readonly color?: unknown; readonly quantity?: unknown; readonly opacity?: unknown }[];
  };
}
export type Symbolizer = FillSymbolizer | LineSymbolizer | MarkSymbolizer | IconSymbolizer | TextSymbolizer | RasterSymbolizer;

export interface SldParser {
  readStyle(text: string): Promise<{ readonly output?: StyleModel }>;
  writeStyle(style: StyleModel): Promise<{ readonly output?: string; readonly errors?: readonly unknown[] }>;
}

/** Its class by the few methods that are used. */
const Parser: unknown = SldStyleParser;

/** @param version of the SLD that is read or written */
export const sldParser = (version: '1.0.0' | '1.1.0'): SldParser =>
  new (Parser as new (options: object) => SldParser)({ sldVersion: version, builderOptions: { format: true, indentBy: '  ' } });
