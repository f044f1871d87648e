import { Box, ButtonBase, Typography } from '@mui/material';
import { useState } from 'react';
import type { CrsAdvice, CrsProposal, CrsView } from '@rootmap/core/contract';
import { CrsField } from '../../new/crs-field.js';
import { distortionWords } from './crs-card.js';
import { FormDialog } from '../../parts/form-dialog.js';

interface Props {
  readonly code: string | null;
  readonly advice: CrsAdvice | null;
  readonly onChoose: (crs: CrsView) => void;
  readonly onClose: () => void;
}

/** Which CRS the map is drawn in: those that suit its extent with what they cost, and any other. */
export function MapCrsDialog({ code, advice, onChoose, onClose }: Props) {
  const [chosen, setChosen] = useState<CrsView | null>(null);
  const offered = advice ? [...(advice.proposed ? [advice.proposed] : []), ...advice.others] : [];
  return (
    <FormDialog
      title="The CRS of the map"
      confirm={chosen ? `Draw in ${chosen.code}` : 'Draw in it'}
      disabled={!chosen || chosen.code === code}
      maxWidth="md"
      onConfirm={() => chosen && (onChoose(chosen), onClose())}
      onClose={onClose}
    >
      <Typography color="text.secondary" sx={{ mb: 1.5 }}>
        Layers in other CRSs are drawn reprojected; no data is changed.
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '1fr 1fr' }, gap: 3 }}>
        <Box role="group" aria-label="Suited to the extent">
          <Typography variant="h3">Suited to the extent of the layers</Typography>
          {offered.length === 0 && <Typography color="text.secondary">No layer says where it lies yet.</Typography>}
          {offered.map((p) => (
            <Offer key={p.crs.code} proposal={p} isChosen={(chosen?.code ?? code) === p.crs.code} onChoose={() => setChosen(p.crs)} />
          ))}
        </Box>
        <Box>
          <Typography variant="h3" sx={{ mb: 1 }}>
            Any other
          </Typography>
          <CrsField value={chosen} onChange={setChosen} hint="By name, code or area, or a spot on the map." />
        </Box>
      </Box>
    </FormDialog>
  );
}

function Offer({ proposal: p, isChosen, onChoose }: { proposal: CrsProposal; isChosen: boolean; onChoose: () => void }) {
  return (
    <ButtonBase
      onClick={onChoose}
      aria-pressed={isChosen}
      sx={{
        display: 'block',
        width: '100%',
        textAlign: 'left',
        fontFamily: 'inherit',
        p: 1,
        mt: 1,
        borderRadius: '6px',
        border: `1.5px solid ${isChosen ? 'var(--spruce)' : 'var(--rule)'}`,
      }}
    >
      <Box sx={{ fontWeight: 650 }}>
        {p.crs.name} <span className="mono">{p.crs.code}</span>
      </Box>
      <Box sx={{ fontSize: 13 }}>
        {distortionWords(p.lengthPerMille, p.crs.unit)}
        {p.crs.unit !== 'degree' && ` Areas up to ${p.areaPerMille.toFixed(p.areaPerMille < 1 ? 2 : 1)} ‰.`}
      </Box>
      <Box sx={{ fontSize: 12.5, color: 'text.secondary' }}>{p.why}</Box>
    </ButtonBase>
  );
}
