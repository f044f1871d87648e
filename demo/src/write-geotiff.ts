/** A plain GeoTIFF: one strip, no compression. TIFF 6.0 and OGC 19-008r4; enough for the demo. */
export interface Image {
  readonly width: number;
  readonly height: number;
  readonly epsg: number;
  readonly left: number;
  readonly top: number;
  readonly pixel: number;
  /** One number a pixel, or bytes of red, green and blue. */
  readonly values: Float32Array | Uint8Array | Int16Array;
  readonly nodata?: number;
}

const SHORT = 3;
const LONG = 4;
const DOUBLE = 12;
const ASCII = 2;

export function writeGeoTiff(image: Image): Uint8Array {
  const samples = image.values.length / (image.width * image.height);
  const each = (value: number): number[] => new Array<number>(samples).fill(value);
  const [bits, format] = image.values instanceof Float32Array ? [32, 3] : image.values instanceof Int16Array ? [16, 2] : [8, 1];
  const data = new Uint8Array(image.values.buffer, image.values.byteOffset, image.values.byteLength);
  const nodata = image.nodata === undefined ? [] : [...`${image.nodata}\0`].map((c) => c.charCodeAt(0));
  const keys = [1, 1, 0, 3, 1024, 0, 1, 1, 1025, 0, 1, 1, 3072, 0, 1, image.epsg];
  const entries: [tag: number, type: number, values: number[]][] = [
    [256, LONG, [image.width]],
    [257, LONG, [image.height]],
    [258, SHORT, each(bits)],
    [259, SHORT, [1]],
    [262, SHORT, [samples === 3 ? 2 : 1]],
    [273, LONG, [8]],
    [277, SHORT, [samples]],
    [278, LONG, [image.height]],
    [279, LONG, [data.length]],
    [339, SHORT, each(format)],
    [33550, DOUBLE, [image.pixel, image.pixel, 0]],
    [33922, DOUBLE, [0, 0, 0, image.left, image.top, 0]],
    [34735, SHORT, keys],
    ...(nodata.length ? ([[42113, ASCII, nodata]] as [number, number, number[]][]) : []),
  ];
  const padded = data.length + (data.length % 2);
  const directory = 8 + padded;
  let extra = directory + 2 + entries.length * 12 + 4;
  const size = { [SHORT]: 2, [LONG]: 4, [DOUBLE]: 8, [ASCII]: 1 } as Record<number, number>;
  const total = extra + entries.reduce((sum, [, type, v]) => sum + (v.length * size[type]! > 4 ? v.length * size[type]! + 8 : 0), 0);
  const out = new Uint8Array(total);
  const view = new DataView(out.buffer);
  view.setUint16(0, 0x4949);
  view.setUint16(2, 42, true);
  view.setUint32(4, directory, true);
  out.set(data, 8);
  view.setUint16(directory, entries.length, true);
  entries.forEach(([tag, type, values], i) => {
    const at = directory + 2 + i * 12;
    const bytes = values.length * size[type]!;
    view.setUint16(at, tag, true);
    view.setUint16(at + 2, type, true);
    view.setUint32(at + 4, values.length, true);
    let to = at + 8;
    if (bytes > 4) {
      extra += extra % 2;
      view.setUint32(at + 8, extra, true);
      to = extra;
      extra += bytes;
    }
    values.forEach((v, n) => {
      const where = to + n * size[type]!;
      if (type === SHORT) view.setUint16(where, v, true);
      else if (type === LONG) view.setUint32(where, v, true);
      else if (type === DOUBLE) view.setFloat64(where, v, true);
      else view.setUint8(where, v);
    });
  });
  return out.slice(0, extra);
}
