import { TextField } from '@mui/material';
import { useTyped } from '../../parts/use-typed.js';

interface Props {
  readonly label: string;
  readonly value: number | null;
  readonly min?: number;
  readonly max?: number;
  readonly width?: number;
  /** Said where no number stands. */
  readonly empty?: string;
  /** Null where the field is emptied and may be. */
  readonly onChange: (value: number | null) => void;
}

/** A number that is taken when the field is left or Enter is pressed; what is no number stays as it was. */
export function NumberField({ label, value, min, max, width = 96, empty, onChange }: Props) {
  const [text, setText] = useTyped(value === null ? '' : String(value));
  const take = (): void => {
    const trimmed = text.trim().replace(',', '.');
    if (trimmed === '' && empty !== undefined) return onChange(null);
    const n = Number(trimmed);
    if (trimmed === '' || !Number.isFinite(n)) return setText(value === null ? '' : String(value));
    const bounded = Math.min(max ?? n, Math.max(min ?? n, n));
    setText(String(bounded));
    onChange(bounded);
  };
  return (
    <TextField
      label={label}
      value={text}
      size="small"
      placeholder={empty}
      onChange={(e) => setText(e.target.value)}
      onBlur={take}
      onKeyDown={(e) => e.key === 'Enter' && take()}
      slotProps={{ htmlInput: { inputMode: 'decimal' }, inputLabel: { shrink: true } }}
      sx={{ width, mt: '6px' }}
    />
  );
}
