const [SHORT, LONG] = [3, 4];

/** Values as a TIFF (TIFF 6.0, section 2) of one strip of 32-bit floats, as OGC 17-066r1 (requirement 17 ff.) has them: one band, no packing. */
export function floatTile(values: Float32Array, size: number): Uint8Array {
  const data = new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
  const entries: readonly (readonly [tag: number, type: number, value: number])[] = [
    [256, LONG, size],
    [257, LONG, size],
    [258, SHORT, 32],
    [259, SHORT, 1],
    [262, SHORT, 1],
    [273, LONG, 8],
    [277, SHORT, 1],
    [278, LONG, size],
    [279, LONG, data.length],
    [339, SHORT, 3],
  ];
  const directory = 8 + data.length;
  const out = new Uint8Array(directory + 2 + entries.length * 12 + 4);
  const view = new DataView(out.buffer);
  view.setUint16(0, 0x4949);
  view.setUint16(2, 42, true);
  view.setUint32(4, directory, true);
  out.set(data, 8);
  view.setUint16(directory, entries.length, true);
  entries.forEach(([tag, type, value], i) => {
    const at = directory + 2 + i * 12;
    view.setUint16(at, tag, true);
    view.setUint16(at + 2, type, true);
    view.setUint32(at + 4, 1, true);
    view.setUint32(at + 8, value, true);
  });
  return out;
}
