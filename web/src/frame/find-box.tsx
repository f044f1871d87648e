import { TextField } from '@mui/material';
import { useEffect, useRef, useState, type ComponentType } from 'react';
import type { FindListProps } from './find-list.js';
import { FIND_LOOK, FIND_WORDS } from './find-look.js';
import { isPressed } from './single-keys.js';

/** The field that finds; its list is loaded when somebody goes there. Key `/` does. */
export function FindBox({ projectKey }: { projectKey: string | null }) {
  // Not by Suspense, which would put another field in place of the one in which somebody is typing.
  const [List, setList] = useState<ComponentType<FindListProps> | null>(null);
  const load = (): void => void import('./find-list.js').then((m) => setList(() => m.FindList));
  const [text, setText] = useState('');
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (!isPressed(event, '/')) return;
      event.preventDefault();
      input.current?.focus();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  if (List) return <List projectKey={projectKey} text={text} onText={setText} input={input} />;
  return (
    <TextField
      inputRef={input}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onFocus={load}
      placeholder={FIND_WORDS}
      slotProps={{ htmlInput: { 'aria-label': 'Find', role: 'combobox', 'aria-expanded': false } }}
      size="small"
      sx={FIND_LOOK}
    />
  );
}
