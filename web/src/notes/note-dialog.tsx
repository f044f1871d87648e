import { mdiClose } from '@mdi/js';
import { Box, Button, Dialog, DialogContent, DialogTitle, IconButton, Stack, TextField, Typography } from '@mui/material';
import type { UseQueryResult } from '@tanstack/react-query';
import { useCallback, useId, useMemo, useState, type ReactNode } from 'react';
import { noteText, PASSAGE_KINDS, placeOfPassage, PASSAGE_WORD, type Passage, type PassageKind, type StatedPassage } from '@rootmap/core';
import type { NoteView } from '@rootmap/core/contract';
import { many } from '../parts/format.js';
import { Icon } from '../parts/icon.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { nextPlace, sentenceAt, type Chosen, type Mark } from './note-pieces.js';
import { NoteText } from './note-text.js';

interface Props {
  readonly name: string;
  readonly view: UseQueryResult<NoteView>;
  /** How passages of it are taken over; null: it is only read. */
  readonly taking: Taking | null;
  /** For what else it holds, and what else is to be said beside it. */
  readonly children?: ReactNode;
  readonly onClose: () => void;
}

interface Taking {
  /** What is stated by passages of this note already. */
  readonly taken: readonly StatedPassage[];
  readonly isBusy?: boolean;
  readonly onTake: (passage: Passage) => void;
  readonly onTakeBack: (passage: StatedPassage) => void;
}
const NONE: readonly StatedPassage[] = [];

/** A note that came with data, and what of it is taken over as stated by the publisher. */
export function NoteDialog({ name, view, onClose, ...rest }: Props) {
  const id = useId();
  return (
    <Dialog open onClose={onClose} maxWidth="lg" fullWidth aria-labelledby={id} slotProps={{ paper: { sx: { height: '86vh' } } }}>
      <Stack direction="row" sx={{ alignItems: 'center', pr: 2 }}>
        <DialogTitle id={id} variant="h2" className="mono" sx={{ flex: 1, overflowWrap: 'anywhere' }}>
          {name}
        </DialogTitle>
        <IconButton aria-label="Close the note" onClick={onClose}>
          <Icon path={mdiClose} />
        </IconButton>
      </Stack>
      <DialogContent sx={{ minHeight: 0, display: 'flex', flexDirection: 'column' }}>
        {view.isError && <ErrorState error={view.error} onRetry={() => void view.refetch()} />}
        {!view.data && !view.isError && <Waiting what="Reading it…" />}
        {view.data && <ReadNote name={name} {...rest} view={view.data} />}
      </DialogContent>
    </Dialog>
  );
}

function ReadNote({ name, view, taking, children }: Omit<Props, 'view' | 'onClose'> & { view: NoteView }) {
  const { note } = view;
  const likely = taking === null ? NONE : view.likely;
  const taken = taking?.taken ?? NONE;
  const isBusy = taking?.isBusy ?? false;
  const text = useMemo(() => noteText(note), [note]);
  const [chosen, setChosen] = useState<Chosen | null>(null);
  const [words, setWords] = useState('');
  const [shown, setShown] = useState<number | null>(null);
  const open = likely.filter((l) => !taken.some((t) => t.about === l.about && t.at === l.at));
  const marks = useMemo((): Mark[] => {
    const of = (kind: Mark['kind'], list: readonly Chosen[]): Mark[] =>
      list.map(({ at, words: w }) => ({ from: at, to: at + w.length, kind }));
    const stands = taken.flatMap((p) => {
      const at = placeOfPassage(p, note);
      return at === null ? [] : [{ at, words: p.words }];
    });
    return [...of('likely', likely), ...of('taken', stands), ...of('chosen', chosen ? [chosen] : [])];
  }, [likely, taken, chosen, note]);
  const choose = useCallback((what: Chosen | number) => setChosen(typeof what === 'number' ? sentenceAt(note.blocks, what) : what), [note]);
  const find = (): void => {
    const at = nextPlace(text, words, shown ?? -1);
    setShown(at);
    setChosen(at === null ? null : sentenceAt(note.blocks, at));
  };
  const take = (about: PassageKind): void => {
    if (chosen) taking?.onTake({ about, ...chosen });
    setChosen(null);
  };
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) 340px' }, gap: 2, flex: 1, minHeight: 0 }}>
      <NoteText name={name} blocks={note.blocks} marks={marks} onChoose={choose} shown={shown} />
      <Box sx={{ overflow: 'auto', display: 'flex', flexDirection: 'column', gap: 1.5 }}>
        <FindWords words={words} isNew={shown === null && chosen === null} onWords={setWords} onFind={find} />
        {taking && <ChosenWords words={chosen?.words ?? null} isBusy={isBusy} onTake={take} />}
        {taken.length > 0 && (
          <TakenPassages
            taken={taken}
            placeOf={(p) => placeOfPassage(p, note)}
            isBusy={isBusy}
            onBack={(p) => taking?.onTakeBack(p)}
            onShow={setShown}
          />
        )}
        {open.length > 0 && (
          <Box component="section" aria-label="Looks as if it told something">
            <Typography variant="h3">Looks as if it told something</Typography>
            <Typography variant="body2" color="text.secondary">
              Found by its words: a guess, until you take it over.
            </Typography>
            {open.map((p) => (
              <PassageRow
                key={`${p.about}${p.at}`}
                passage={p}
                isBusy={isBusy}
                onAct={() => taking?.onTake(p)}
                onShow={() => setShown(p.at)}
              />
            ))}
          </Box>
        )}
        {children}
        <Typography variant="body2" color="text.secondary">
          {missing(view)}
        </Typography>
      </Box>
    </Box>
  );
}

interface FindWordsProps {
  readonly words: string;
  /** No place was shown yet. */
  readonly isNew: boolean;
  readonly onWords: (words: string) => void;
  readonly onFind: () => void;
}

const FindWords = ({ words, isNew, onWords, onFind }: FindWordsProps) => (
  <Stack
    component="form"
    direction="row"
    sx={{ gap: 1, pt: 0.5 }}
    onSubmit={(e) => {
      e.preventDefault();
      onFind();
    }}
  >
    <TextField
      label="Find words in it"
      value={words}
      onChange={(e) => onWords(e.target.value)}
      sx={{ flex: 1 }}
      helperText={words !== '' && isNew ? 'Enter shows the next place' : ' '}
    />
    <Button type="submit" sx={{ alignSelf: 'flex-start', mt: 0.25 }}>
      Next
    </Button>
  </Stack>
);

interface ChosenWordsProps {
  /** Null: none are chosen. */
  readonly words: string | null;
  readonly isBusy: boolean;
  readonly onTake: (about: PassageKind) => void;
}

/** What words of the note tell: a person says it. */
const ChosenWords = ({ words, isBusy, onTake }: ChosenWordsProps) => (
  <Box component="section" aria-label="Chosen words">
    <Typography variant="h3">What do these words tell?</Typography>
    <Typography variant="body2" color="text.secondary" role="status" sx={{ my: 0.5, overflowWrap: 'anywhere' }}>
      {words !== null ? `“${short(words)}”` : 'Choose words in the note, or click a sentence.'}
    </Typography>
    <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.75 }}>
      {PASSAGE_KINDS.map((about) => (
        <Button key={about} size="small" variant="outlined" disabled={words === null || isBusy} onClick={() => onTake(about)}>
          {PASSAGE_WORD[about]}
        </Button>
      ))}
    </Box>
  </Box>
);

type Passages = NonNullable<Props['taking']>['taken'];
interface TakenProps {
  readonly taken: Passages;
  /** Where it stands in the note; null: it is not in it. */
  readonly placeOf: (passage: Passages[number]) => number | null;
  readonly isBusy: boolean;
  readonly onBack: (passage: Passages[number]) => void;
  readonly onShow: (at: number) => void;
}

const TakenPassages = ({ taken, placeOf, isBusy, onBack, onShow }: TakenProps) => (
  <Box component="section" aria-label="Stated by the publisher">
    <Typography variant="h3">Stated by the publisher</Typography>
    {taken.map((p) => {
      const at = placeOf(p);
      return (
        <PassageRow
          key={`${p.about}${p.at}`}
          passage={p}
          isTaken
          isBusy={isBusy}
          onAct={() => onBack(p)}
          onShow={at === null ? null : () => onShow(at)}
        />
      );
    })}
  </Box>
);

/** One passage: what it is about, its words, and what can be done with it. */
export function PassageRow({
  passage,
  isTaken = false,
  isBusy = false,
  onAct,
  onShow,
}: {
  passage: Passage;
  isTaken?: boolean;
  isBusy?: boolean | undefined;
  onAct: () => void;
  /** Null: its words are not in the note any more. */
  onShow: (() => void) | null;
}) {
  const word = PASSAGE_WORD[passage.about];
  const act = isTaken ? 'Take it back' : 'Take it over';
  return (
    <Box sx={{ mt: 0.75, pl: 1, borderLeft: `3px solid var(--${isTaken ? 'spruce' : 'ochre'})`, fontSize: 13 }}>
      <Box sx={{ fontWeight: 650 }}>{word}</Box>
      <Box sx={{ overflowWrap: 'anywhere' }}>{short(passage.words)}</Box>
      <Button size="small" disabled={isBusy} aria-label={`${act}: ${word}, ${short(passage.words)}`} onClick={onAct}>
        {act}
      </Button>
      {onShow === null ? (
        <span style={{ color: 'var(--plum)' }}>Its words are not in the note any more.</span>
      ) : (
        <Button size="small" aria-label={`Show where: ${word}`} onClick={onShow}>
          Show where
        </Button>
      )}
    </Box>
  );
}

const LONGEST = 220;
const short = (words: string): string => (words.length > LONGEST ? `${words.slice(0, LONGEST - 1)}…` : words);

function missing({ note }: NoteView): string {
  const parts = [
    ...(note.isCut ? ['it goes on, and is not shown to its end'] : []),
    ...(note.pictures === null
      ? ['pictures and drawings in it are not shown']
      : note.pictures > 0
        ? [`${many(note.pictures, 'picture')} in it not shown`]
        : []),
  ];
  return parts.length === 0 ? '' : `Of this note: ${parts.join('; ')}.`;
}
