import { parseFilter, ProblemError, type Condition } from '@rootmap/core';

/** What a filter asks; null: nothing. Throws `wrong-use` where it is none. */
export function conditionOf(text: string): Condition | null {
  if (text.trim() === '') return null;
  const parsed = parseFilter(text);
  if (!parsed.ok)
    throw new ProblemError({
      code: 'wrong-use',
      message: `The filter "${text}" cannot be used: ${parsed.why}. Correct it in the layer's filter.`,
    });
  return parsed.condition;
}
