import type { JsonNode } from './json-tree.js';
import type { TextPatch } from './patch-text.js';

/** Takes a member out of an object, with the comma that goes with it; nothing where it is not there. */
export function removeMember(object: JsonNode & { kind: 'object' }, key: string): TextPatch[] {
  const at = object.members.findLastIndex((m) => m.key === key);
  const member = object.members[at];
  if (!member) return [];
  const [before, after] = [object.members[at - 1], object.members[at + 1]];
  if (before) return [{ start: before.value.end, end: member.value.end, text: '' }];
  return [{ start: member.keyStart, end: after ? after.keyStart : member.value.end, text: '' }];
}
