/** A tile in the scheme that most tile sets share: z from 0, x from west, y from north. Common practice, no source. */
export interface TileAt {
  readonly z: number;
  readonly x: number;
  readonly y: number;
}

/** The address of one tile; `{-y}` counts from south. Host parts such as `{s}` and `{a-c}` take their first letter. */
export const tileAddress = (template: string, { z, x, y }: TileAt): string =>
  template
    .replace(/%7B/gi, '{')
    .replace(/%7D/gi, '}')
    .replace('{z}', String(z))
    .replace('{x}', String(x))
    .replace('{y}', String(y))
    .replace('{-y}', String(2 ** z - 1 - y))
    .replace('{s}', 'a')
    .replace(/\{([a-z0-9])-[a-z0-9]\}/, '$1');

/** Whether bytes begin as a picture does that browsers draw: PNG, JPEG, WebP, GIF (signatures of their formats). */
export function isTilePicture(bytes: Uint8Array): boolean {
  const at = (i: number, ...values: number[]): boolean => values.every((v, k) => bytes[i + k] === v);
  return (
    at(0, 0x89, 0x50, 0x4e, 0x47) ||
    at(0, 0xff, 0xd8, 0xff) ||
    (at(0, 0x52, 0x49, 0x46, 0x46) && at(8, 0x57, 0x45, 0x42, 0x50)) ||
    at(0, 0x47, 0x49, 0x46, 0x38)
  );
}

/** `image/png` and the like, by the first bytes; null: no picture that browsers draw. */
export const pictureType = (bytes: Uint8Array): string | null =>
  !isTilePicture(bytes) ? null : ({ 0x89: 'image/png', 0xff: 'image/jpeg', 0x52: 'image/webp', 0x47: 'image/gif' }[bytes[0]!] ?? null);
