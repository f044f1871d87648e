declare module 'lineclip' {
  type Box = readonly [number, number, number, number];
  export function clipPolyline(points: readonly (readonly number[])[], bbox: Box): number[][][];
  export function clipPolygon(points: readonly (readonly number[])[], bbox: Box): number[][];
}
declare module 'vt-pbf' {
  export interface TileFeature {
    readonly id: number;
    /** 1 point, 2 line, 3 area. */
    readonly type: number;
    /** Points: positions; lines and areas: runs of them. */
    readonly geometry: readonly unknown[];
    readonly tags: Readonly<Record<string, string | number | boolean>>;
  }
  export function fromGeojsonVt(
    layers: Readonly<Record<string, { readonly features: readonly TileFeature[] }>>,
    options: { readonly version: number; readonly extent: number },
  ): Uint8Array;
}
