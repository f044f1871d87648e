import { Box } from '@mui/material';
import { memo, useEffect, useRef, type ReactNode } from 'react';
import { noteText, type NoteBlock } from '@rootmap/core';
import { piecesOf, startsOf, type Chosen, type Mark } from './note-pieces.js';

interface Props {
  readonly name: string;
  readonly blocks: readonly NoteBlock[];
  readonly marks: readonly Mark[];
  /** Words were chosen with the mouse; or a place was clicked, and nothing chosen. */
  readonly onChoose: (chosen: Chosen | number) => void;
  /** The place that is shown. */
  readonly shown: number | null;
}

/** The text of a note, piece by piece; nothing in it is more than text. */
export const NoteText = memo(function NoteText({ name, blocks, marks, onChoose, shown }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const starts = startsOf(blocks);
  useEffect(() => {
    if (shown === null) return;
    const all = [...(box.current?.querySelectorAll<HTMLElement>('[data-at]') ?? [])];
    all.findLast((e) => Number(e.dataset['at']) <= shown)?.scrollIntoView({ block: 'center' });
  }, [shown]);
  return (
    <Box
      ref={box}
      role="region"
      aria-label={`What ${name} says`}
      tabIndex={0}
      onMouseUp={() => {
        const chosen = chosenIn(window.getSelection(), noteText({ blocks }));
        if (chosen !== null) onChoose(chosen);
      }}
      sx={{
        overflow: 'auto',
        height: '100%',
        p: 2,
        bgcolor: 'var(--paper)',
        border: '1px solid var(--rule)',
        borderRadius: 1,
        whiteSpace: 'pre-wrap',
        overflowWrap: 'anywhere',
        lineHeight: 1.5,
        '& mark': { color: 'inherit', bgcolor: 'transparent' },
        '& .likely': { borderBottom: '2px dashed var(--ochre)' },
        '& .taken': { bgcolor: 'var(--spruce-wash)', borderBottom: '2px solid var(--spruce)' },
        '& .chosen': { bgcolor: 'var(--slate-wash)', outline: '2px solid var(--slate)' },
      }}
    >
      {blocks.map((block, i) => (
        <Block key={i} kind={block.kind}>
          {piecesOf(block.text, starts[i] ?? 0, marks).map((p) =>
            p.kind === null ? (
              <span key={p.at} data-at={p.at}>
                {p.text}
              </span>
            ) : (
              <mark key={p.at} data-at={p.at} className={p.kind}>
                {p.text}
              </mark>
            ),
          )}
        </Block>
      ))}
    </Box>
  );
});

function Block({ kind, children }: { kind: NoteBlock['kind']; children: ReactNode }) {
  switch (kind) {
    case 'heading':
      return (
        <Box component="p" sx={{ fontWeight: 700, fontSize: 17, mt: 2, mb: 0.5 }}>
          {children}
        </Box>
      );
    case 'page':
      return (
        <Box component="p" sx={{ color: 'var(--soft)', fontSize: 12, borderTop: '1px solid var(--rule)', mt: 2, pt: 0.5 }}>
          {children}
        </Box>
      );
    case 'item':
      return (
        <Box component="p" sx={{ my: 0.25, pl: 2.5, '&::before': { content: '"– "', ml: -2 } }}>
          {children}
        </Box>
      );
    case 'row':
      return (
        <Box component="p" className="mono" sx={{ my: 0, py: 0.25, borderBottom: '1px solid var(--rule)', tabSize: 24, fontSize: 13 }}>
          {children}
        </Box>
      );
    case 'text':
      return (
        <Box component="p" sx={{ my: 1 }}>
          {children}
        </Box>
      );
  }
}

/** Where a place of the page is in the text of the note. */
function placeOf(node: Node | null, offset: number): number | null {
  const element = (node instanceof Element ? node : node?.parentElement)?.closest<HTMLElement>('[data-at]');
  return element ? Number(element.dataset['at']) + (node instanceof Element ? 0 : offset) : null;
}

function chosenIn(selection: Selection | null, text: string): Chosen | number | null {
  if (!selection) return null;
  const [a, b] = [placeOf(selection.anchorNode, selection.anchorOffset), placeOf(selection.focusNode, selection.focusOffset)];
  if (a === null || b === null || a === b) return a ?? b;
  const words = text.slice(Math.min(a, b), Math.max(a, b)); // as the note has it: the page has line ends of its own
  const lead = words.length - words.trimStart().length;
  return words.trim() === '' ? Math.min(a, b) : { at: Math.min(a, b) + lead, words: words.trim() };
}
