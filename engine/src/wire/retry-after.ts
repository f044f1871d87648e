const MOST_MS = 10 * 60 * 1000;

/**
 * When a server wants to be asked again, in milliseconds from now (RFC 9110, 10.2.3): seconds, or a date, which is held
 * against the server's own `Date`, so that a clock that is off does no harm. Null: it does not say.
 */
export function retryAfterMs(header: string | undefined, date: string | undefined, nowMs: number): number | null {
  if (header === undefined) return null;
  const text = header.trim();
  if (/^\d+$/.test(text)) return Math.min(MOST_MS, Number(text) * 1000);
  const at = Date.parse(text);
  if (!Number.isFinite(at)) return null;
  const theirs = Date.parse(date ?? '');
  return Math.min(MOST_MS, Math.max(0, at - (Number.isFinite(theirs) ? theirs : nowMs)));
}

/**
 * How long an answer is fresh, in milliseconds (RFC 9111, 4.2: `max-age` less `Age`, both told as spans, so that no clock
 * is compared). Null: it may not be kept.
 */
export function freshForMs(cacheControl: string | undefined, age: string | undefined, otherwiseMs: number): number | null {
  const told = cacheControl?.toLowerCase() ?? '';
  if (/\b(no-store|private)\b/.test(told)) return null;
  if (/\bno-cache\b/.test(told)) return 0;
  const seconds = /\bmax-age\s*=\s*"?(\d+)/.exec(told)?.[1];
  if (seconds === undefined) return otherwiseMs;
  return Math.max(0, Number(seconds) - (/^\d+$/.test(age ?? '') ? Number(age) : 0)) * 1000;
}
