import { Box, Button, Checkbox, TextField, Typography } from '@mui/material';
import { useMemo, useState } from 'react';
import { groupBy, splitName, type NamingRules } from '@rootmap/core';
import type { EditRequest, FoldersView } from '@rootmap/core/contract';
import { many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { EmptyState, Sheet, Tag } from '../parts/states.js';
import { useToggled } from '../parts/use-toggled.js';
import { VirtualTable } from '../parts/virtual-table.js';
import { EditDialog } from './edit-dialog.js';
import { nameOf } from './folder-rows.js';
import { NamingForm } from './naming-form.js';
import { useApplyEdit } from './use-edit.js';
import { FormDialog } from '../parts/form-dialog.js';

const ROW = 44;
const COLUMNS = '36px minmax(220px, 1fr) minmax(220px, 1fr) minmax(220px, 1.3fr)';

interface Named {
  readonly path: string;
  readonly proposed: string | null;
  readonly why: string;
}

/** All names that break a rule, what they would be, and one button for all of them. */
export function NamesView({ projectKey, view }: { projectKey: string; view: FoldersView }) {
  const names = useMemo(
    () =>
      [...groupBy(view.findings, (f) => f.path)].map(([path, findings]): Named => ({
        path,
        proposed: findings.find((f) => f.proposed !== null)?.proposed ?? null,
        why: findings.map((f) => f.message).join('; '),
      })),
    [view.findings],
  );
  const [left, flip] = useToggled();
  const [chosen, setChosen] = useState<Readonly<Record<string, string>>>({});
  const [edit, setEdit] = useState<EditRequest | null>(null);
  const [rules, setRules] = useState(false);
  const mendable = names.filter((n) => n.proposed !== null);
  const wanted = mendable.filter((n) => !left.has(n.path));
  const changed = (): Record<string, string> =>
    Object.fromEntries(wanted.flatMap((n) => (chosen[n.path] && chosen[n.path] !== n.proposed ? [[n.path, chosen[n.path]!]] : [])));
  return (
    <Sheet sx={{ height: '100%', display: 'flex', flexDirection: 'column', minHeight: 0 }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, px: 1.5, py: 1, borderBottom: '1px solid var(--rule)' }}>
        <Typography variant="h2" sx={{ flex: 1 }}>
          {names.length === 0 ? 'Names' : `${many(names.length, 'name')} against the rules of this project`}
        </Typography>
        <Button onClick={() => setRules(true)} disabled={!view.isProject || view.readOnly}>
          Rules: {ruleWords(view.naming)}
        </Button>
        <Button
          variant="contained"
          disabled={wanted.length === 0 || view.readOnly}
          onClick={() =>
            setEdit({
              kind: 'names',
              only: left.size === 0 && Object.keys(changed()).length === 0 ? null : wanted.map((n) => n.path),
              chosen: changed(),
              evenOriginals: false,
              evenMentioned: false,
            })
          }
        >
          Rename {wanted.length === mendable.length ? `all ${wanted.length}` : wanted.length}
        </Button>
      </Box>
      {names.length === 0 ? (
        <EmptyState title="Every name keeps the rules">
          Names that a tool or another system would choke on will be listed here, with a better one.
        </EmptyState>
      ) : (
        <NameRows names={names} left={left} chosen={chosen} onFlip={flip} onChoose={(p, name) => setChosen((c) => ({ ...c, [p]: name }))} />
      )}
      {edit && (
        <EditDialog
          projectKey={projectKey}
          title={`Rename ${many(wanted.length, 'thing')} by the rules`}
          edit={edit}
          button={`Rename ${wanted.length}`}
          onClose={() => setEdit(null)}
        />
      )}
      {rules && <RulesDialog projectKey={projectKey} naming={view.naming} onClose={() => setRules(false)} />}
    </Sheet>
  );
}

function ruleWords(naming: NamingRules): string {
  const limit = naming.limit === null ? '' : `, at most ${naming.limit}`;
  return `${{ underscore: 'letters, digits, _', plain: 'letters and digits', portable: 'portable' }[naming.rules]}${limit}`;
}

interface RowsProps {
  readonly names: readonly Named[];
  readonly left: ReadonlySet<string>;
  readonly chosen: Readonly<Record<string, string>>;
  readonly onFlip: (path: string) => void;
  readonly onChoose: (path: string, name: string) => void;
}

function NameRows({ names, left, chosen, onFlip, onChoose }: RowsProps) {
  return (
    <VirtualTable
      label="Names"
      items={names}
      keyOf={(n) => n.path}
      rowHeight={ROW}
      columns={COLUMNS}
      cells={(n) => (
        <>
          <Box role="cell">
            <Checkbox
              size="small"
              checked={n.proposed !== null && !left.has(n.path)}
              disabled={n.proposed === null}
              onChange={() => onFlip(n.path)}
              slotProps={{ input: { 'aria-label': `Rename ${n.path}` } }}
            />
          </Box>
          <Box role="cell" sx={{ minWidth: 0, overflow: 'hidden' }}>
            <PathText path={n.path} most={44} />
          </Box>
          <Box role="cell">
            {n.proposed === null ? (
              <Tag tone="ochre">no name can mend it: shorten the folders above</Tag>
            ) : (
              <TextField
                variant="standard"
                fullWidth
                value={chosen[n.path] ?? n.proposed}
                onChange={(e) => onChoose(n.path, e.target.value)}
                slotProps={{
                  htmlInput: {
                    className: 'mono',
                    'aria-label': `New name of ${n.path}, with ${splitName(nameOf(n.path)).ending || 'no ending'}`,
                  },
                }}
              />
            )}
          </Box>
          <Box role="cell" sx={{ color: 'var(--soft)', lineHeight: 1.25, overflow: 'hidden', maxHeight: 34 }} title={n.why}>
            {n.why}
          </Box>
        </>
      )}
    />
  );
}

function RulesDialog({ projectKey, naming, onClose }: { projectKey: string; naming: NamingRules; onClose: () => void }) {
  const [draft, setDraft] = useState(naming);
  const apply = useApplyEdit(projectKey, onClose);
  return (
    <FormDialog
      title="Rules for names in this project"
      confirm="Check names by these rules"
      disabled={apply.isPending}
      maxWidth="sm"
      onConfirm={() => apply.mutate({ kind: 'naming', naming: draft })}
      onClose={onClose}
      contentSx={{ '&&': { pt: 1 } }}
    >
      <NamingForm naming={draft} onChange={setDraft} />
    </FormDialog>
  );
}
