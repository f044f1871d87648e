/** JSON Schema as Joi writes it (draft 2020-12), as much of it as requests use. */
export interface Schema {
  readonly type?: string | readonly string[];
  readonly enum?: readonly unknown[];
  readonly const?: unknown;
  readonly properties?: Readonly<Record<string, Schema>>;
  readonly required?: readonly string[];
  readonly items?: Schema;
  readonly anyOf?: readonly Schema[];
  readonly oneOf?: readonly Schema[];
  readonly pattern?: string;
  readonly format?: string;
  readonly minimum?: number;
  readonly minItems?: number;
  readonly minLength?: number;
  readonly maxLength?: number;
}

/**
 * A value that the schema takes, with `text` wherever any text may stand: of all alternatives the `pick`th, with every member that may be
 * there. Members called `place` name a place that is there.
 */
export function sampleOf(schema: Schema | undefined, text: string, place: string, pick = 0, name = ''): unknown {
  if (!schema) return text;
  if (schema.const !== undefined) return schema.const;
  const values = schema.enum?.filter((v) => v !== null);
  if (values?.length) return values[(pick + text.length) % values.length]; // another one for another text
  const choices = [...(schema.anyOf ?? []), ...(schema.oneOf ?? [])].filter((s) => s.type !== 'null');
  if (choices.length > 0) return sampleOf(choices[pick % choices.length], text, place, pick, name);
  const type = Array.isArray(schema.type) ? schema.type.find((t) => t !== 'null') : schema.type;
  if (schema.properties || type === 'object')
    return Object.fromEntries(Object.entries(schema.properties ?? {}).map(([key, s]) => [key, sampleOf(s, text, place, pick, key)]));
  if (type === 'array') return Array.from({ length: Math.max(1, schema.minItems ?? 1) }, () => sampleOf(schema.items, text, place, pick));
  if (type === 'number' || type === 'integer') return schema.minimum ?? 1;
  if (type === 'boolean') return true;
  if (name === 'place') return place;
  return textFor(schema, text);
}

const KNOWN: readonly (readonly [RegExp, string])[] = [
  [/EPSG/, 'EPSG:4326'],
  [/0-9a-f|hex|A-F/i, '0123456789abcdef0123456789abcdef'],
];

/** Where only a certain kind of text may stand, one of that kind: what is behind it must be reached. */
function textFor({ pattern, format, minLength, maxLength }: Schema, text: string): string {
  if (format === 'uuid' || format === 'guid') return '00000000-0000-4000-8000-000000000000';
  if (pattern && !new RegExp(pattern, 'u').test(text)) {
    const known = KNOWN.find(([kind]) => kind.test(pattern))?.[1] ?? text;
    return maxLength && minLength === maxLength ? known.slice(0, maxLength) : known;
  }
  return text;
}
