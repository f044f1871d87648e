import { Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from '@mui/material';
import { many } from '../../parts/format.js';

interface Props {
  readonly changes: number;
  readonly onStay: () => void;
  readonly onLeave: () => void;
  readonly onDrop: () => void;
}

/** Leaving a map with something unsaved: it is kept as a draft, or given up, but never silently. */
export const LeaveDialog = ({ changes, onStay, onLeave, onDrop }: Props) => (
  <Dialog open onClose={onStay} aria-labelledby="leave-title">
    <DialogTitle id="leave-title" variant="h2">
      {many(changes, 'change')} not saved to the map file
    </DialogTitle>
    <DialogContent>
      <Typography>
        They are kept as a draft and offered when the map is opened again. Whoever opens the file meanwhile does not see them.
      </Typography>
    </DialogContent>
    <DialogActions sx={{ px: 3, pb: 2 }}>
      <Button onClick={onDrop}>Drop them and leave</Button>
      <Button onClick={onLeave}>Leave, keep the draft</Button>
      <Button variant="contained" autoFocus onClick={onStay}>
        Stay
      </Button>
    </DialogActions>
  </Dialog>
);
