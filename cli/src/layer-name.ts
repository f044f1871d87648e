import { ProblemError } from '@rootmap/core';
import { layerKey, type MapsSeen } from '@rootmap/engine';

/** `a=b`, as flags have it. */
export function pairOf(text: string, flag: string, form: string): [string, string] {
  const at = text.indexOf('=');
  if (at < 1 || at === text.length - 1) throw new ProblemError({ code: 'wrong-use', message: `Say ${flag} ${form}.` });
  return [text.slice(0, at), text.slice(at + 1)];
}

/** A layer by its id, else by its title, where one alone has it. */
export function keyOf(seen: readonly MapsSeen[], name: string): string {
  const all = seen.flatMap((s) => s.maps).flatMap((map) => map.layers.map((seen) => ({ map, seen })));
  const byId = all.filter((l) => l.seen.layer.id === name);
  const meant = byId.length > 0 ? byId : all.filter((l) => l.seen.layer.title === name);
  if (meant.length === 0) throw new ProblemError({ code: 'not-found', what: 'layer', id: name });
  if (meant.length > 1)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${meant.length} layers are called ${name}. Name the map, and the layer by its id.`,
    });
  return layerKey(meant[0]!.map, meant[0]!.seen);
}
