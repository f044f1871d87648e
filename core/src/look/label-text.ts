import type { ValueOf } from '../filter/test-record.js';

/** Names of fields in a label template, each once. */
export const fieldsOfTemplate = (template: string): string[] => [
  ...new Set([...template.matchAll(/\{([^{}]+)\}/g)].map((m) => m[1]!.trim())),
];

/** The label of a record; empty where every field of it is. Whole numbers have no decimals, others at most three. */
export function labelText(template: string, valueOf: ValueOf): string {
  let isFilled = false;
  const text = template.replace(/\{([^{}]+)\}/g, (_, name: string) => {
    const value = valueOf(name.trim());
    if (value === null || value === undefined || value instanceof Uint8Array) return '';
    const shown = typeof value === 'number' && !Number.isInteger(value) ? String(Number(value.toFixed(3))) : String(value);
    if (shown !== '') isFilled = true;
    return shown;
  });
  return isFilled || !/\{/.test(template) ? text.trim() : '';
}
