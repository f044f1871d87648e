import { breachesOf, DEFAULT_NAMING } from '@rootmap/core';

/** What is to be said of a name that a person types: the rules it breaks, as far as they are known here; a tool may have its own. */
export function nameHelp(name: string): string {
  const breaches = name === '' ? [] : breachesOf(name, DEFAULT_NAMING);
  return breaches.length > 0
    ? `Works, but ${breaches.map((b) => b.message).join('; ')}.`
    : 'It keeps the rules of Windows, macOS and Linux, and of the strictest tools known here.';
}
