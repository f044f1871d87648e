import { toFileUri } from './file-uri.js';
import { encodeFragment } from './percent.js';
import { absoluteAddress, placeNamed, sameNameOn, type Location, type Place } from './place.js';
import type { StoredForm } from './reference.js';
import { relativize } from './relativize.js';

export interface StoredReference {
  readonly href: string;
  readonly form: StoredForm;
}

/**
 * The one writer of references: from a map file to a target, in the form asked for. Relative exists only within one
 * place; where it does not, the reference becomes absolute and `form` says so.
 */
export function storeReference(
  map: Location,
  target: Location,
  fragment: string | null,
  form: StoredForm,
  places: readonly Place[],
): StoredReference {
  if (form === 'relative' && map.place === target.place) {
    const same = sameNameOn(placeNamed(places, map.place));
    return { href: relativize(map.segments.slice(0, -1), target.segments, fragment, same), form };
  }
  const uri = toFileUri(absoluteAddress(target, places));
  return { href: fragment === null ? uri : `${uri}#${encodeFragment(fragment)}`, form: 'absolute' };
}
