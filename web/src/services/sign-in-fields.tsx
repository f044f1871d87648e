import { MenuItem, Stack, TextField } from '@mui/material';
import type { SignInRequest } from '@rootmap/core/contract';

/** How somebody signs in, as it is typed. */
export interface SignInTyped {
  readonly way: 'none' | 'password' | 'query' | 'header';
  readonly name: string;
  readonly secret: string;
}
export const NO_SIGN_IN: SignInTyped = { way: 'none', name: '', secret: '' };

/** Null: nobody signs in, or it is not complete. */
export function signInOf({ way, name, secret }: SignInTyped): SignInRequest | null {
  if (way === 'none' || name.trim() === '' || secret === '') return null;
  return way === 'password'
    ? { kind: 'password', name: name.trim(), password: secret }
    : { kind: 'key', as: way, name: name.trim(), key: secret };
}

export function SignInFields({ value, onChange }: { value: SignInTyped; onChange: (value: SignInTyped) => void }) {
  const isKey = value.way === 'query' || value.way === 'header';
  return (
    <Stack direction="row" spacing={1.5} sx={{ mt: 1.5 }}>
      <TextField
        select
        label="Who asks"
        value={value.way}
        onChange={(e) => {
          const way = e.target.value as SignInTyped['way'];
          onChange({ way, name: way === 'query' ? 'api_key' : way === 'header' ? 'X-API-Key' : '', secret: '' });
        }}
        sx={{ width: 210 }}
      >
        <MenuItem value="none">Anybody may ask</MenuItem>
        <MenuItem value="password">Name and password</MenuItem>
        <MenuItem value="query">Key in the address</MenuItem>
        <MenuItem value="header">Key in a header</MenuItem>
      </TextField>
      {value.way !== 'none' && (
        <>
          <TextField
            label={isKey ? 'Name of the key' : 'Name'}
            value={value.name}
            autoComplete="off"
            onChange={(e) => onChange({ ...value, name: e.target.value })}
            sx={{ flex: 1 }}
          />
          <TextField
            type="password"
            label={isKey ? 'Key' : 'Password'}
            value={value.secret}
            autoComplete="new-password"
            onChange={(e) => onChange({ ...value, secret: e.target.value })}
            sx={{ flex: 1 }}
          />
        </>
      )}
    </Stack>
  );
}
