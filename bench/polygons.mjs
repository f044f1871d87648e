// Areas for the benches: a sheet of fields, each an uneven ring, as land parcels or habitat patches are.

/** A stream of numbers from 0 to 1 that is the same in every run. */
export function random(seed) {
  let state = seed;
  return () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
}

/** The i-th of n areas on a square sheet of 100 km, as rings of [x, y]; clockwise, as outer rings of a shapefile are. */
export function makeArea(i, n, next, corners = 12) {
  const across = Math.ceil(Math.sqrt(n));
  const size = 100_000 / across;
  const [cx, cy] = [450_000 + (i % across) * size, 4_850_000 + Math.floor(i / across) * size];
  const ring = Array.from({ length: corners }, (_, k) => {
    const angle = (-2 * Math.PI * k) / corners;
    const reach = size * (0.3 + 0.2 * next());
    return [cx + reach * Math.cos(angle), cy + reach * Math.sin(angle)];
  });
  return [[...ring, ring[0]]];
}
