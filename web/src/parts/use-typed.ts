import { useState } from 'react';

/** Text that a person types, and what it is anew whenever the value behind it changes. */
export function useTyped(value: string): readonly [string, (text: string) => void] {
  const [typed, setTyped] = useState({ of: value, text: value });
  if (typed.of !== value) setTyped({ of: value, text: value });
  return [typed.of === value ? typed.text : value, (text) => setTyped({ of: value, text })];
}
