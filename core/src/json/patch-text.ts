/** A replacement of `[start, end)` of a text; an insertion has `start === end`. */
export interface TextPatch {
  readonly start: number;
  readonly end: number;
  readonly text: string;
}

/** Applies patches that do not overlap; every character outside them stays as it was. */
export function patchText(text: string, patches: readonly TextPatch[]): string {
  let out = '';
  let at = 0;
  for (const p of [...patches].sort((a, b) => a.start - b.start || a.end - b.end)) {
    if (p.start < at) throw new Error(`patches overlap at ${p.start}`);
    out += text.slice(at, p.start) + p.text;
    at = p.end;
  }
  return out + text.slice(at);
}
