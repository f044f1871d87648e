import Feature from 'ol/Feature.js';
import Point from 'ol/geom/Point.js';
import VectorLayer from 'ol/layer/Vector.js';
import VectorSource from 'ol/source/Vector.js';
import { Circle, RegularShape, Stroke, Style, Text, Fill } from 'ol/style.js';

/** Places that are marked alike: told apart by shape first, by colour second. */
export interface Marks {
  readonly places: readonly (readonly [number, number])[];
  readonly shape: 'ring' | 'cross' | 'square';
  /** Stand beside them as numbers, from 1. */
  readonly isNumbered?: boolean;
}

export const MARK_TONE = { ring: 'spruce', cross: 'plum', square: 'ochre' } as const satisfies Record<Marks['shape'], string>;

/** Marks above all else. @param colours of each shape, and of the ground behind numbers */
export function marksLayer(groups: readonly Marks[], colours: Readonly<Record<Marks['shape'] | 'ground', string>>) {
  const features = groups.flatMap(({ places, shape, isNumbered }) => {
    const image = imageOf(shape, colours[shape]);
    const plain = new Style({ image });
    return places.map((at, i) => {
      const feature = new Feature(new Point([...at]));
      const text = new Text({
        text: String(i + 1),
        offsetY: -15,
        font: '12px "Commissioner Variable"',
        fill: new Fill({ color: colours[shape] }),
        stroke: new Stroke({ color: colours.ground, width: 3 }),
      });
      feature.setStyle(isNumbered ? new Style({ image, text }) : plain);
      return feature;
    });
  });
  return new VectorLayer({ source: new VectorSource({ features }) });
}

function imageOf(shape: Marks['shape'], color: string) {
  const stroke = new Stroke({ color, width: 2.5 });
  if (shape === 'ring') return new Circle({ radius: 7, stroke });
  return shape === 'square'
    ? new RegularShape({ points: 4, radius: 9, angle: Math.PI / 4, stroke })
    : new RegularShape({ points: 4, radius: 9, radius2: 0, angle: Math.PI / 4, stroke });
}
