declare module 'statsbreaks' {
  type Breaks = (values: readonly number[], options: { readonly nb: number }) => number[];
  export const equal: Breaks;
  export const jenks: Breaks;
  export const quantile: Breaks;
}
declare module '@nieuwlandgeo/sldreader' {
  export const Reader: (sld: string) => unknown;
}
