import { member, parseJsonTree } from './json-tree.js';
import { patchText } from './patch-text.js';
import { removeMember } from './remove-member.js';
import { setMember } from './set-member.js';

/**
 * A JSON text in which the member at `path` has a value; undefined takes it out. Objects on the way are made where they are
 * missing. All else stays byte for byte; where something on the way is no object, nothing is changed.
 */
export function setAt(text: string, path: readonly string[], value: unknown): string {
  const tree = parseJsonTree('', text);
  if (!tree.ok) return text;
  let node = tree.value;
  for (const [i, key] of path.entries()) {
    if (node.kind !== 'object') return text;
    const inner = member(node, key);
    if (value === undefined && (!inner || i === path.length - 1)) return inner ? patchText(text, removeMember(node, key)) : text;
    if (i === path.length - 1 || !inner) return patchText(text, setMember(text, node, key, nested(path.slice(i + 1), value)));
    node = inner;
  }
  return text;
}

const nested = (path: readonly string[], value: unknown): unknown => path.reduceRight((inner, key) => ({ [key]: inner }), value);
