import { Button, MenuItem, Stack, Table, TableBody, TableCell, TableHead, TableRow, TextField, Typography } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useForm } from 'react-hook-form';
import type { PlaceHosts, PlaceView, StatusView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { ErrorState, Sheet } from '../parts/states.js';

interface Allowing {
  /** Empty: every place. */
  readonly place: string;
  readonly host: string;
  readonly allowed: boolean;
}

const EVERY = 'every place';

/** Servers of one's own network are asked only when they are allowed by name: here, place by place. */
export function OwnHosts({ places, status }: { places: readonly PlaceView[]; status: StatusView }) {
  const client = useQueryClient();
  const { register, handleSubmit, reset, formState } = useForm({ defaultValues: { host: '', place: '' } });
  const allow = useMutation({
    mutationFn: async ({ place, host, allowed }: Allowing): Promise<void> => {
      if (place !== '') client.setQueryData(keys.places, await api.allowHostIn(place, { host, allowed }));
      else {
        const hosts = await api.allowHostEverywhere({ host, allowed });
        client.setQueryData(keys.status, { ...status, hosts });
      }
    },
    onSuccess: (_, { allowed }) => allowed && reset(),
  });
  const rows = [{ name: '', hosts: status.hosts }, ...places].flatMap(({ name, hosts }) => rowsOf(name, hosts));
  return (
    <Sheet sx={{ p: 2 }}>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        Servers of your own network
      </Typography>
      <Typography color="text.secondary" sx={{ mb: 1.5 }}>
        A linked service is asked over the open network only. A server that stands in your own is asked when it is allowed by name: for
        projects in one place, or in every place.
      </Typography>
      {rows.length > 0 && (
        <HostTable
          rows={rows}
          isEditable={status.hostsEditable}
          isBusy={allow.isPending}
          onNoMore={({ place, host }) => allow.mutate({ place, host, allowed: false })}
        />
      )}
      {status.hostsEditable ? (
        <Stack
          component="form"
          direction="row"
          spacing={1.5}
          noValidate
          onSubmit={(e) => void handleSubmit(({ place, host }) => allow.mutate({ place, host: host.trim(), allowed: true }))(e)}
          sx={{ alignItems: 'flex-start' }}
        >
          <TextField
            label="Host"
            {...register('host', {
              required: 'Name the host.',
              pattern: { value: /^\s*[a-z0-9.:_[\]-]+\s*$/i, message: 'A host, or host:port; no address.' },
            })}
            error={!!formState.errors.host}
            helperText={formState.errors.host?.message ?? 'maps.office, or maps.office:8080'}
            slotProps={{ htmlInput: { className: 'mono' } }}
            sx={{ width: 300 }}
          />
          <TextField
            select
            label="For projects in"
            defaultValue=""
            slotProps={{ htmlInput: register('place'), select: { displayEmpty: true }, inputLabel: { shrink: true } }}
            sx={{ width: 200 }}
          >
            <MenuItem value="">{EVERY}</MenuItem>
            {places.map((p) => (
              <MenuItem key={p.name} value={p.name}>
                {p.name}
              </MenuItem>
            ))}
          </TextField>
          <Button type="submit" variant="contained" disabled={allow.isPending} sx={{ height: 38 }}>
            Allow it
          </Button>
        </Stack>
      ) : (
        <Typography>Others reach this server, so its configuration (ROOTMAP_HOSTS) says which hosts it may ask.</Typography>
      )}
      {allow.isError && <ErrorState error={allow.error} />}
    </Sheet>
  );
}

interface HostTableProps {
  readonly rows: readonly ReturnType<typeof rowsOf>[number][];
  readonly isEditable: boolean;
  readonly isBusy: boolean;
  readonly onNoMore: (of: { readonly place: string; readonly host: string }) => void;
}

const HostTable = ({ rows, isEditable, isBusy, onNoMore }: HostTableProps) => (
  <Table size="small" sx={{ mb: 2 }}>
    <TableHead>
      <TableRow>
        <TableCell>Host</TableCell>
        <TableCell>Asked for projects in</TableCell>
        <TableCell />
      </TableRow>
    </TableHead>
    <TableBody>
      {rows.map(({ place, host, isOwn }) => (
        <TableRow key={`${place}=${host}`}>
          <TableCell className="mono">{host}</TableCell>
          <TableCell>{place || EVERY}</TableCell>
          <TableCell align="right">
            {!isOwn
              ? 'by the configuration (ROOTMAP_HOSTS)'
              : isEditable && (
                  <Button
                    aria-label={`Ask ${host} no more in ${place || EVERY}`}
                    disabled={isBusy}
                    onClick={() => onNoMore({ place, host })}
                  >
                    Ask it no more
                  </Button>
                )}
          </TableCell>
        </TableRow>
      ))}
    </TableBody>
  </Table>
);

const rowsOf = (place: string, { configured, own }: PlaceHosts) => [
  ...configured.map((host) => ({ place, host, isOwn: false })),
  ...own.map((host) => ({ place, host, isOwn: true })),
];
