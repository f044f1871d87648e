import { addressOn, placeNamed, printAddress } from '@rootmap/core';
import type { ReplacementView } from '@rootmap/core/contract';
import { hrefFor } from '../mend/patch-layer.js';
import type { Replacement } from '../mend/replace-data.js';
import { factsOf } from './view-project.js';
import { titleOf } from './view-mend.js';
import { shownPath } from '../project/shown-path.js';

/** Other data for a layer as the web app asks for it: facts, the fields to map, and the layers that could follow. */
export function viewReplacement(r: Replacement): ReplacementView {
  const { data, layers, location, scope } = r;
  const remembered = new Map(layers[0]!.seen.layer.fingerprint?.fields ?? []);
  const place = placeNamed(scope.places, location.place)!;
  const path = printAddress(addressOn(place, location.segments));
  return {
    tables: r.tables,
    shownPath: shownPath(data?.target.table ? `${path}#${data.target.table}` : path, scope),
    facts: factsOf(data?.target.fingerprint ?? null),
    fields: data?.fields.map(({ name, type }) => ({ name, type })) ?? [],
    needs: [...r.proposed].map(([field, proposed]) => ({
      field,
      type: remembered.get(field) ?? null,
      uses: [...new Set(layers.flatMap((l) => l.uses.get(field) ?? []))],
      proposed,
    })),
    warnings: r.warnings,
    layers: layers.map(({ key, map, seen, uses }) => ({
      key,
      title: seen.layer.title,
      mapTitle: titleOf(map),
      before: seen.layer.reference?.href ?? null,
      after: data ? hrefFor(map, data.target, scope) : '',
      needs: [...uses.keys()],
    })),
  };
}
