import { Box, Button, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { CHECKS, ELEMENTS, type CheckCode, type QualityCheck } from '@rootmap/core';
import type { ProjectView, QualityRow } from '@rootmap/core/contract';
import { many, number } from '../parts/format.js';
import { Tag } from '../parts/states.js';
import { FindingFix } from './finding-fix.js';
import { ALL_ELEMENTS, RESULT_TONE, RESULT_WORD } from './quality-words.js';

interface Props {
  readonly project: ProjectView;
  readonly row: QualityRow;
  readonly checks: readonly QualityCheck[];
  /** The check whose places are on the map. */
  readonly shown: CheckCode | null;
  readonly onShow: (code: CheckCode | null) => void;
}

/** What was found, by element, each with what can be done; then what was fine. */
export function SheetFindings({ project, row, checks, shown, onShow }: Props) {
  const fine = checks.filter((c) => c.result === 'pass');
  return (
    <>
      {ALL_ELEMENTS.map((element) => {
        const own = checks.filter((c) => c.element === element && c.result !== 'pass');
        return own.length === 0 ? null : (
          <Box key={element} component="section" aria-label={ELEMENTS[element]} sx={{ mt: 1.5 }}>
            <Typography variant="h3">{ELEMENTS[element]}</Typography>
            {own.map((c, i) => (
              <CheckRow key={`${c.code}${i}`} check={c} isShown={shown === c.code} onShow={() => onShow(shown === c.code ? null : c.code)}>
                <FindingFix project={project} row={row} code={c.code} />
              </CheckRow>
            ))}
          </Box>
        );
      })}
      {fine.length > 0 && (
        <Box component="details" sx={{ mt: 1.5, fontSize: 13, '& summary': { cursor: 'pointer', fontWeight: 650 } }}>
          <summary>{many(fine.length, 'check')} found nothing wrong</summary>
          {fine.map((c, i) => (
            <CheckRow key={`${c.code}${i}`} check={c} isShown={false} onShow={() => undefined} />
          ))}
        </Box>
      )}
    </>
  );
}

const MOST_SHOWN = 5;

interface CheckRowProps {
  readonly check: QualityCheck;
  readonly isShown: boolean;
  readonly onShow: () => void;
  readonly children?: ReactNode;
}

function CheckRow({ check, isShown, onShow, children }: CheckRowProps) {
  const { title } = CHECKS[check.code];
  const places = check.examples.filter((e) => e.at !== null).length;
  return (
    <Box sx={{ mt: 0.75, pl: 1, borderLeft: `3px solid var(--${RESULT_TONE[check.result]})`, fontSize: 13 }}>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'baseline' }}>
        <span style={{ fontWeight: 650, flex: 1 }}>{title}</span>
        <Tag tone={RESULT_TONE[check.result]}>{RESULT_WORD[check.result]}</Tag>
      </Box>
      <div style={{ overflowWrap: 'anywhere' }}>{check.detail}</div>
      {check.result !== 'pass' && (
        <>
          {check.examples.slice(0, MOST_SHOWN).map((e, i) => (
            <div key={i} style={{ color: 'var(--soft)', overflowWrap: 'anywhere' }}>
              {e.record === null ? '' : `record ${number(e.record)}: `}
              {e.what}
            </div>
          ))}
        </>
      )}
      {children}
      {places > 0 && (
        <Button size="small" aria-pressed={isShown} onClick={onShow}>
          {isShown ? 'Hide where' : `Show where (${places})`}
        </Button>
      )}
    </Box>
  );
}
