import { Autocomplete, Box, Checkbox, FormControlLabel, TextField } from '@mui/material';
import { LICENCES, type Origin } from '@rootmap/core';

/** Where data came from, as far as anybody knows it. */
export function OriginForm({ origin, onChange }: { origin: Origin; onChange: (origin: Origin) => void }) {
  const field = (key: Exclude<keyof Origin, 'isReobtainable' | 'passages' | 'edition'>, label: string, more: object = {}) => (
    <TextField label={label} value={origin[key]} onChange={(e) => onChange({ ...origin, [key]: e.target.value })} {...more} />
  );
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '1fr 1fr' }, gap: 1.5 }}>
      {field('publisher', 'Publisher')}
      <Autocomplete
        freeSolo
        options={LICENCES.map((l) => l.name)}
        value={origin.licence}
        onInputChange={(_, licence) => onChange({ ...origin, licence })}
        getOptionLabel={(name) => name}
        renderOption={({ key, ...props }, name) => (
          <li key={key} {...props}>
            {name}: {LICENCES.find((l) => l.name === name)?.title}
          </li>
        )}
        renderInput={(params) => <TextField {...params} label="Licence" />}
        size="small"
      />
      {field('page', 'Page that offers it')}
      {field('address', 'Address of the file')}
      {field('fetched', 'Fetched on', { type: 'date', slotProps: { inputLabel: { shrink: true } } })}
      {field('attribution', 'Attribution, as it has to be told')}
      {field('statedCrs', 'CRS that the publisher states', { placeholder: 'EPSG:3035' })}
      {field('statedUnits', 'Units that the publisher states')}
      {field('statedScale', 'Scale that it was digitised at, or made for', { placeholder: '1:10 000' })}
      {field('statedDate', 'Day or year that the data is of')}
      {field('notes', 'Notes', { multiline: true, maxRows: 3 })}
      {field('disclaimer', 'Disclaimer', { multiline: true, maxRows: 3 })}
      <FormControlLabel
        control={<Checkbox checked={origin.isReobtainable} onChange={(e) => onChange({ ...origin, isReobtainable: e.target.checked })} />}
        label="It can be fetched again"
      />
    </Box>
  );
}
