import { useEffect } from 'react';

interface Keys {
  readonly save: () => void;
  /** Null where another part of the page takes steps back. */
  readonly undo: (() => void) | null;
  readonly redo: () => void;
}

/** Ctrl+S saves; Ctrl+Z takes back and Ctrl+Shift+Z does again, but in fields, which do so themselves. */
export function useEditorKeys({ save, undo, redo }: Keys): void {
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      if (!(e.ctrlKey || e.metaKey)) return;
      const isTyping = e.target instanceof HTMLInputElement || e.target instanceof HTMLTextAreaElement;
      if (e.key === 's') {
        e.preventDefault();
        save();
      } else if (!isTyping && undo && e.key.toLowerCase() === 'z') {
        e.preventDefault();
        if (e.shiftKey) redo();
        else undo();
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [save, undo, redo]);
}
