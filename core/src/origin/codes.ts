import type { Resource } from './origin.js';

type Json = Readonly<Record<string, unknown>>;
const isObject = (v: unknown): v is Json => typeof v === 'object' && v !== null && !Array.isArray(v);
const fieldsOf = (resource: Resource): Json[] => {
  const schema = resource['schema'];
  return isObject(schema) && Array.isArray(schema['fields']) ? schema['fields'].filter(isObject) : [];
};

/**
 * Codes that may stand in the fields of a table, by the field's name: `constraints.enum` of a Table Schema (specs.frictionlessdata.io,
 * table-schema). Numbers and truth values are taken as they are written.
 */
export function codesOf(resource: Resource): ReadonlyMap<string, readonly string[]> {
  const all = new Map<string, readonly string[]>();
  for (const { name, constraints } of fieldsOf(resource)) {
    const list = isObject(constraints) ? constraints['enum'] : null;
    if (typeof name === 'string' && Array.isArray(list) && list.length > 0)
      all.set(
        name,
        list.filter((c) => ['string', 'number', 'boolean'].includes(typeof c)).map((c) => String(c)),
      );
  }
  return all;
}

/** A resource in which a field may hold these codes only; none: anything. All else in it stays. */
export function withCodes(resource: Resource, field: string, codes: readonly string[]): Resource {
  const fields = fieldsOf(resource);
  const before = fields.find((f) => f['name'] === field) ?? { name: field };
  const { enum: _, ...constraints } = isObject(before['constraints']) ? before['constraints'] : {};
  const now = { ...before, constraints: codes.length > 0 ? { ...constraints, enum: codes } : constraints };
  const list = fields.some((f) => f['name'] === field) ? fields.map((f) => (f['name'] === field ? now : f)) : [...fields, now];
  return { ...resource, schema: { ...(isObject(resource['schema']) ? resource['schema'] : {}), fields: list } };
}
