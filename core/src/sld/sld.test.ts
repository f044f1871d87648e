/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { Reader } from '@nieuwlandgeo/sldreader';
import type { Label, Look } from '../look/look.js';
import { plainSymbol, PLAIN_LABEL, PLAIN_RASTER } from '../look/look.js';
import { fontsOfStyle, picturesOfStyle, readSld, writeSld } from './index.js';

const area = { ...plainSymbol('area'), fill: '#b9770e', stroke: '#1c2a27', dash: [4, 2] };
const fields = [
  { name: 'kind', type: 'text' as const },
  { name: 'depth', type: 'real' as const },
];
const byValue: Look = {
  kind: 'by-value',
  field: 'kind',
  entries: [
    { value: 'reef', title: 'Reef', symbol: area },
    { value: "o'clock", title: 'Odd', symbol: { ...area, fill: '#3e5f8a' } },
  ],
  other: { ...area, fill: '#6e7a75' },
};
const byClass: Look = {
  kind: 'by-class',
  field: 'depth',
  method: 'given',
  breaks: [0, 2.5, 10],
  entries: [
    { title: '0 to 2.5', symbol: area },
    { title: '2.5 to 10', symbol: { ...area, fill: '#8e2a62' } },
  ],
};
const label: Label = { ...PLAIN_LABEL, template: '{kind}: {depth} m', placement: 'right' };

interface SldRule {
  readonly name?: string;
  readonly filter?: unknown;
  readonly polygonsymbolizer?: readonly { readonly fill?: { readonly styling: Record<string, string> } }[];
  readonly pointsymbolizer?: readonly { readonly graphic: { readonly mark: { readonly wellknownname: string }; readonly size: string } }[];
  readonly textsymbolizer?: readonly unknown[];
}
const rulesByOther = (text: string): readonly SldRule[] =>
  (
    Reader(text) as { layers: { styles: { featuretypestyles: { rules: SldRule[] }[] }[] }[] }
  ).layers[0]!.styles[0]!.featuretypestyles.flatMap((f) => f.rules);

describe('a look that is written is read as the same', () => {
  test.each<[string, Look]>([
    ['one', { kind: 'one', symbol: area }],
    ['by value', byValue],
    ['by class', byClass],
  ])('%s', async (_, look) => {
    const read = await readSld(await writeSld('Beds', look, 'area', null), fields);
    expect(read?.losses).toEqual([]);
    const { mark, size, picture } = area; // areas have none of them
    const same = (s: typeof area): typeof area => ({ ...s, mark, size, picture, dash: s.dash && [...s.dash] });
    const plain = JSON.parse(JSON.stringify(read!.look), (key, value: unknown) =>
      key === 'symbol' || key === 'other' ? same(value as typeof area) : value,
    ) as Look;
    expect(plain).toEqual(look);
  });
  test('points', async () => {
    const symbol = { ...plainSymbol('point'), mark: 'triangle' as const, size: 11 };
    expect(await readSld(await writeSld('Gauges', { kind: 'one', symbol }, 'point', null), null)).toMatchObject({
      look: { kind: 'one', symbol },
    });
  });
  test('a label', async () => {
    expect((await readSld(await writeSld('Beds', byValue, 'area', label), fields))?.label).toEqual(label);
  });
  test('rasters: grey between two values, a ramp, steps', async () => {
    const looks: Look[] = [
      { ...PLAIN_RASTER, stretch: { from: -12.5, to: 40 } },
      {
        ...PLAIN_RASTER,
        band: 2,
        ramp: [
          { value: 0, colour: '#1f6f5c', opacity: 1 },
          { value: 10, colour: '#f6f4ee', opacity: 0.5 },
        ],
      },
      {
        ...PLAIN_RASTER,
        isStepped: true,
        ramp: [
          { value: 0, colour: '#1f6f5c', opacity: 1 },
          { value: 10, colour: '#f6f4ee', opacity: 1 },
        ],
      },
    ];
    for (const look of looks) expect((await readSld(await writeSld('Depth', look, 'area', null), null))?.look).toEqual(look);
  });
});

// Source: @nieuwlandgeo/sldreader, another reader of SLD 1.0 and 1.1.
describe('another program reads what is written', () => {
  test('by value: filters and fills', async () => {
    const rules = rulesByOther(await writeSld('Beds', byValue, 'area', label));
    expect(rules.map((r) => r.name)).toEqual(['Reef', 'Odd', 'all others', 'labels']);
    expect(rules[0]!.filter).toMatchObject({ operator: 'propertyisequalto' });
    expect(JSON.stringify(rules[1]!.filter)).toContain("o'clock");
    expect(rules.slice(0, 3).map((r) => r.polygonsymbolizer![0]!.fill!.styling['fill'])).toEqual(['#b9770e', '#3e5f8a', '#6e7a75']);
    expect(rules[3]!.textsymbolizer).toHaveLength(1);
  });
  test('points: mark and size', async () => {
    const symbol = { ...plainSymbol('point'), mark: 'square' as const, size: 11 };
    const [rule] = rulesByOther(await writeSld('Gauges', { kind: 'one', symbol }, 'point', null));
    expect(rule!.pointsymbolizer![0]!.graphic).toMatchObject({ mark: { wellknownname: 'square' } });
    expect(Number(rule!.pointsymbolizer![0]!.graphic.size)).toBe(11);
  });
});

// Source: OGC 02-070 (SLD 1.0.0), the form of its example in clause 11.1.3; from memory.
const SLD_1_0 = `<?xml version="1.0"?>
<StyledLayerDescriptor version="1.0.0" xmlns="http://www.opengis.net/sld" xmlns:ogc="http://www.opengis.net/ogc" xmlns:xlink="http://www.w3.org/1999/xlink">
 <NamedLayer><Name>roads</Name><UserStyle><FeatureTypeStyle>
  <Rule><Name>main</Name><ogc:Filter><ogc:PropertyIsEqualTo><ogc:PropertyName>class</ogc:PropertyName><ogc:Literal>3</ogc:Literal></ogc:PropertyIsEqualTo></ogc:Filter>
   <MaxScaleDenominator>50000</MaxScaleDenominator>
   <LineSymbolizer><Stroke><CssParameter name="stroke">#FF0000</CssParameter><CssParameter name="stroke-width">4</CssParameter></Stroke></LineSymbolizer></Rule>
  <Rule><Name>sign</Name><PointSymbolizer><Graphic><ExternalGraphic><OnlineResource xlink:type="simple" xlink:href="pictures/buoy &amp; light.svg"/><Format>image/svg+xml</Format></ExternalGraphic><Size>20</Size></Graphic></PointSymbolizer>
   <TextSymbolizer><Label><ogc:PropertyName>name</ogc:PropertyName></Label><Font><CssParameter name="font-family">Lato</CssParameter></Font></TextSymbolizer></Rule>
 </FeatureTypeStyle></UserStyle></NamedLayer>
</StyledLayerDescriptor>`;

test('SLD 1.0 of another program: rules with scales, a picture, a label', async () => {
  const read = await readSld(SLD_1_0, [{ name: 'class', type: 'integer' }]);
  expect(read?.look).toMatchObject({
    kind: 'rules',
    rules: [
      { title: 'main', filter: 'class = 3', maxScale: 50000, symbol: { stroke: '#ff0000', strokeWidth: 4, fill: null } },
      { title: 'sign', filter: null, symbol: { picture: 'pictures/buoy & light.svg', size: 20 } },
    ],
  });
  expect(read?.label).toMatchObject({ template: '{name}' });
});

// Source: OGC 05-077r4, 10.1.4: a rule with ElseFilter is for what no other rule of its style draws.
test('rules for all others are read as such, and written as such', async () => {
  const text = SLD_1_0.replace('<Rule><Name>sign</Name>', '<Rule><Name>sign</Name><ElseFilter/>');
  const { look, losses } = (await readSld(text, [{ name: 'class', type: 'integer' }]))!;
  expect([look?.kind === 'rules' && look.rules.map((r) => [r.title, r.filter, r.isElse]), losses]).toEqual([
    [
      ['main', 'class = 3', false],
      ['sign', null, true],
    ],
    [],
  ]);
  const written = await writeSld('Roads', look!, 'line', null);
  expect(written).toContain('<se:ElseFilter/>');
  expect(written).not.toContain('rootmap-else');
  const again = (await readSld(written, [{ name: 'class', type: 'integer' }]))!.look;
  expect(again?.kind === 'rules' && again.rules.map((r) => r.isElse)).toEqual([false, true]);
  // Another reader (@nieuwlandgeo/sldreader) knows it, too.
  expect(rulesByOther(written)[1]).toMatchObject({ elsefilter: true });
});

test('what is drawn otherwise is listed', async () => {
  const stroke = (width: number) =>
    `<LineSymbolizer><Stroke><CssParameter name="stroke">#000000</CssParameter><CssParameter name="stroke-width">${width}</CssParameter></Stroke></LineSymbolizer>`;
  const twice = SLD_1_0.replace('<LineSymbolizer>', `${stroke(6)}<LineSymbolizer>`);
  expect((await readSld(twice, null))!.losses).toEqual(['of lines over one another the last is drawn']);
  const raster = (inner: string): string =>
    `<StyledLayerDescriptor version="1.0.0" xmlns="http://www.opengis.net/sld" xmlns:ogc="http://www.opengis.net/ogc"><NamedLayer><Name>r</Name><UserStyle><FeatureTypeStyle><Rule><RasterSymbolizer>${inner}</RasterSymbolizer></Rule></FeatureTypeStyle></UserStyle></NamedLayer></StyledLayerDescriptor>`;
  const channel = (name: string, band: number): string => `<${name}><SourceChannelName>${band}</SourceChannelName></${name}>`;
  const composed = raster(
    `<Opacity>0.5</Opacity><ChannelSelection>${channel('RedChannel', 3)}${channel('GreenChannel', 2)}${channel('BlueChannel', 1)}</ChannelSelection>`,
  );
  const { look, losses } = (await readSld(composed, null))!;
  expect([look, losses]).toEqual([{ ...PLAIN_RASTER, bands: [3, 2, 1] }, [expect.stringContaining('opacity')]]);
  const named = composed.replace('>3<', '>near infrared<');
  expect((await readSld(named, null))!.losses[0]).toContain('red, green and blue');
});

// Source: the schema of SLD 1.0 (OGC 02-070, RasterSymbolizer.xsd): ChannelSelection stands before ColorMap.
test('the parts of a raster stand in the order of the schema', async () => {
  const look: Look = { ...PLAIN_RASTER, band: 2, stretch: { from: 0, to: 9 } };
  const sld = await writeSld('Depth', look, 'area', null);
  expect(sld.indexOf('<ChannelSelection>')).toBeGreaterThan(0);
  expect(sld.indexOf('<ChannelSelection>')).toBeLessThan(sld.indexOf('<ColorMap'));
  expect((await readSld(sld, null))?.look).toEqual(look);
  const composed: Look = { ...PLAIN_RASTER, bands: [4, 3, 2] };
  const three = await writeSld('Scene', composed, 'area', null);
  expect(three).toMatch(/<RedChannel>\s*<SourceChannelName>4</);
  expect((await readSld(three, null))?.look).toEqual(composed);
});

test('pictures and fonts that a style names, where they stand', () => {
  const [picture] = picturesOfStyle(SLD_1_0);
  expect(picture!.href).toBe('pictures/buoy & light.svg');
  expect(SLD_1_0.slice(picture!.start, picture!.end)).toBe('pictures/buoy &amp; light.svg');
  expect(fontsOfStyle(SLD_1_0)).toEqual(['Lato']);
});

test.each(['', 'no style', '<a/>', '<StyledLayerDescriptor version="1.0.0"/>', SLD_1_0.slice(0, 700)])(
  'what is no style is told, not thrown',
  async (text) => {
    expect(await readSld(text, null)).toBeNull();
  },
);
