import { fieldsOfStyle, type Location, type MapLayer, type Place } from '@rootmap/core';
import { pathOfReference, readStyleFile } from './layer-styles.js';

/** The layer with the fields, too, that its styles in files of their own need. A style that is not there needs none. */
export function withStyleNeeds(layer: MapLayer, map: Location, places: readonly Place[]): MapLayer {
  const styles = layer.others.filter((r) => r.role === 'style');
  if (styles.length === 0) return layer;
  const fields = styles.flatMap(({ href }) => {
    const at = pathOfReference(href, map, { places });
    return fieldsOfStyle((at && readStyleFile(at.path)) ?? '');
  });
  return { ...layer, needs: [...new Set([...layer.needs, ...fields])] };
}
