import { Autocomplete, Box, Button, Stack, TextField, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { lazy, Suspense, useState } from 'react';
import type { CrsView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useSettled } from '../folders/use-edit.js';
import { shortArea } from '../parts/format.js';
import { spotWords, type Spot } from './spot.js';
import { keys } from '../api/queries.js';

const CrsMap = lazy(() => import('./crs-map.js').then((m) => ({ default: m.CrsMap })));

interface Props {
  readonly value: CrsView | null;
  readonly onChange: (crs: CrsView | null) => void;
  readonly hint: string;
  /** False: there is a map beside it already. */
  readonly hasMap?: boolean;
  /** The value is still on its way: what is typed before it comes would be overwritten by it. */
  readonly isWaiting?: boolean;
}

/** A CRS by name, code or area, or by a spot on the land outline, which offers those whose area of use fits. */
export function CrsField({ value, onChange, hint, hasMap = true, isWaiting = false }: Props) {
  const [text, setText] = useState('');
  const [spot, setSpot] = useState<Spot | null>(null);
  const asked = useSettled(text, 200);
  const isTyped = asked.trim() !== '' && asked !== labelOf(value);
  const found = useQuery({
    queryKey: keys.crs(isTyped ? asked : spot),
    queryFn: () => (isTyped ? api.searchCrs(asked) : api.crsAt(spot!.longitude, spot!.latitude)),
    enabled: isTyped || spot !== null,
    staleTime: Infinity,
    placeholderData: (before) => before,
  });
  const offered = found.data ?? [];
  return (
    <Stack spacing={1}>
      <Autocomplete<CrsView>
        options={offered}
        disabled={isWaiting || (value !== null && text === '')} // one that came has its text a moment later
        value={value}
        onChange={(_, crs) => onChange(crs)}
        inputValue={text}
        onInputChange={(_, typed) => setText(typed)}
        filterOptions={(all) => all}
        getOptionLabel={labelOf}
        getOptionKey={(c) => c.code}
        isOptionEqualToValue={(a, b) => a.code === b.code}
        loading={found.isFetching}
        noOptionsText={isTyped ? 'No CRS has these words' : 'Type a name, a code or an area'}
        renderOption={({ key, ...props }, c) => (
          <Box component="li" key={key} {...props} sx={{ display: 'block !important' }}>
            <div>
              {c.name} <span className="mono">{c.code}</span>
            </div>
            <Box sx={{ color: 'text.secondary', fontSize: 12 }}>
              {c.unit} · {shortArea(c.area)}
            </Box>
          </Box>
        )}
        renderInput={(params) => (
          <TextField {...params} label="Coordinate reference system" placeholder="UTM 24N, 32624, Greenland …" helperText={hint} />
        )}
        size="small"
      />
      {hasMap && (
        <Suspense fallback={<Box sx={{ height: 220 }} />}>
          <CrsMap spot={spot} bounds={value?.bounds ?? null} onSpot={(s) => (setSpot(s), setText(''))} />
        </Suspense>
      )}
      {spot && !isTyped && (
        <Box>
          <Typography variant="body2" color="text.secondary" role="status">
            Around {spotWords(spot)}, the smallest areas first:
          </Typography>
          <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5, maxHeight: 76, overflow: 'auto' }}>
            {offered.slice(0, 12).map((c) => (
              <Button
                key={c.code}
                size="small"
                variant={c.code === value?.code ? 'contained' : 'outlined'}
                onClick={() => onChange(c)}
                title={c.area}
              >
                {c.name}
              </Button>
            ))}
          </Box>
        </Box>
      )}
    </Stack>
  );
}

const labelOf = (c: CrsView | null): string => (c === null ? '' : `${c.name} (${c.code})`);
