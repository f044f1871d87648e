import { PLAIN_RASTER, plainSymbol, type LayerSymbol, type Look } from '@rootmap/core';

/** Muted inks of the demo's maps: they stand apart on its sea, and for colour-blind readers. */
const INK = {
  sea: '#3f7f9c',
  deep: '#234f6b',
  grass: '#2f7d4f',
  rust: '#b4552d',
  plum: '#7d3a6b',
  sand: '#d9c98f',
  night: '#1c2a27',
  paper: '#fffefa',
};

const one = (symbol: LayerSymbol): Look => ({ kind: 'one', symbol });
const mark = (shape: LayerSymbol['mark'], fill: string, size: number, stroke: string = INK.paper): LayerSymbol => ({
  ...plainSymbol('point'),
  mark: shape,
  fill,
  size,
  stroke,
});
const line = (stroke: string, strokeWidth: number, dash: readonly number[] | null = null): LayerSymbol => ({
  ...plainSymbol('line'),
  stroke,
  strokeWidth,
  dash,
});
const area = (fill: string, fillOpacity: number, stroke: string, strokeWidth = 1, dash: readonly number[] | null = null): LayerSymbol => ({
  ...plainSymbol('area'),
  fill,
  fillOpacity,
  stroke,
  strokeWidth,
  dash,
});
const species = (...entries: readonly (readonly [value: string, fill: string])[]): Look => ({
  kind: 'by-value',
  field: 'species',
  entries: entries.map(([value, fill]) => ({ value, title: value, symbol: area(fill, 0.75, INK.night, 0.6) })),
  other: null,
});
const GRASSES = species(['Zostera', '#2f7d4f'], ['Ruppia', '#8fae3d'], ['mixed', '#57a08a'], ['bare', '#d9c98f']);

/** Heights above datum: blue gets deeper, land gets drier. */
const RELIEF: Look = {
  ...PLAIN_RASTER,
  resampling: 'bilinear',
  ramp: (
    [
      [-36, '#234f6b'],
      [-22, '#3f7f9c'],
      [-12, '#6ea6b9'],
      [-6, '#9cc7cf'],
      [-2, '#c3dfdd'],
      [-0.1, '#e3efe6'],
      [0, '#e6dcae'],
      [12, '#cdc893'],
      [40, '#aeb07b'],
      [80, '#96906a'],
      [110, '#7d7259'],
    ] as const
  ).map(([value, colour]) => ({ value, colour, opacity: 1 })),
};
const DENSITY: Look = {
  ...PLAIN_RASTER,
  resampling: 'bilinear',
  ramp: (
    [
      [0, '#edf3ea'],
      [15, '#cfe3cc'],
      [40, '#8fc09a'],
      [70, '#4f9568'],
      [100, '#1f6145'],
    ] as const
  ).map(([value, colour]) => ({ value, colour, opacity: 1 })),
};
const CONTOURS: Look = {
  kind: 'by-class',
  field: 'depth_m',
  method: 'given',
  breaks: [0, 4, 12, 40],
  entries: [
    { title: 'down to 4 m', symbol: line('#7fb2c4', 0.8) },
    { title: 'down to 12 m', symbol: line('#4a86a4', 1) },
    { title: 'deeper', symbol: line(INK.deep, 1.2) },
  ],
};

/** How layers are drawn, by their title; one that is not here is drawn plainly. */
export const LOOKS: Readonly<Record<string, Look>> = {
  Lights: one(mark('star', '#d98a1f', 14, INK.night)),
  'Lights on the sheet': one(mark('star', '#d98a1f', 14, INK.night)),
  Fairway: one(line(INK.plum, 2.2, [8, 5])),
  'Monitoring sites': one(mark('square', INK.deep, 8)),
  'Exclusion zone': one(area(INK.rust, 0.22, INK.rust, 1.6, [6, 4])),
  'Zone to be decided on': one(area(INK.rust, 0.22, INK.rust, 1.6, [6, 4])),
  'Depth model': RELIEF,
  'Proposed moorings': one(mark('circle', INK.rust, 9)),
  'Anchor blocks': one(mark('square', INK.night, 6)),
  'Chain lengths': one(line(INK.night, 1)),
  'Swing circles': one(area(INK.plum, 0.15, INK.plum, 1)),
  'Protected zones': one(area(INK.grass, 0.14, INK.grass, 1.6, [9, 4])),
  'Depth contours': CONTOURS,
  'Drop-camera stills': one(mark('circle', INK.deep, 5)),
  'Sediment samples': one(mark('triangle', INK.rust, 9)),
  Transects: one(line(INK.night, 1.4)),
  'Eelgrass cover': one(area('#8fae3d', 0.6, '#5f7a22', 0.8)),
  'Seagrass beds 2025': GRASSES,
  'Seagrass beds 2019': one(area('#ffffff', 0, INK.night, 1, [4, 3])),
  'Beds gained': one(area('#3e7fb5', 0.75, '#274f73', 0.8)),
  'Beds lost': one(area(INK.rust, 0.75, '#7a3719', 0.8)),
  'Beds stable': one(area(INK.grass, 0.7, '#1d5133', 0.8)),
  'Bed centres': one(mark('cross', INK.night, 7, INK.night)),
  'Change lines': one(line(INK.night, 1.2)),
  'Bed density': DENSITY,
  'Probe holes': one(mark('x', INK.night, 7, INK.night)),
  'Drag lines': one(line(INK.rust, 1.6)),
  'Scour marks': one(area(INK.sand, 0.8, '#8a7433', 0.8)),
  'Bare rings': one(area(INK.plum, 0.5, INK.plum, 0.8)),
  'Dive points': one(mark('triangle', INK.rust, 8)),
  'Survey tracks': one(line(INK.plum, 1, [5, 3])),
  Buoys: one(mark('circle', INK.rust, 8, INK.night)),
  'Wind stations': one(mark('star', INK.deep, 11)),
  'Harbour limits': one(area('#ffffff', 0, INK.deep, 1.4, [10, 3, 2, 3])),
  Coastline: one(area(INK.sand, 1, '#8a7433', 1)),
};

/** The smallest scale, 1:n, at which layers of many small things are drawn; by their title. */
export const SMALLEST_SCALES: Readonly<Record<string, number>> = {
  'Monitoring sites': 250_000,
  'Drop-camera stills': 250_000,
  'Sediment samples': 250_000,
  'Anchor blocks': 150_000,
  'Chain lengths': 150_000,
  'Probe holes': 150_000,
  'Drag lines': 150_000,
};
