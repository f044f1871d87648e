import { Box, MenuItem, TextField, Typography } from '@mui/material';
import {
  fillPattern,
  LENGTH_LIMITS,
  NAME_SORTS,
  patternFault,
  RULE_SETS,
  type NameSort,
  type NamingRules,
  type RuleSet,
} from '@rootmap/core';
import { TargetList } from '../parts/name-targets.js';

const SORT_WORDS: Readonly<Record<NameSort, string>> = {
  folder: 'Folders',
  file: 'Files',
  container: 'Geodatabases',
  table: 'Tables',
  field: 'Fields',
};

const RULE_WORDS: Readonly<Record<RuleSet, { title: string; why: string }>> = {
  underscore: {
    title: 'letters, digits and underscore',
    why: 'No space, dash, dot, slash or exclamation mark, and no digit first: the tools known here take such names, also for fields and tables.',
  },
  plain: { title: 'letters and digits only', why: 'As strict as the most particular tools ask for: not even an underscore.' },
  portable: { title: 'what every system can hold', why: 'Only what Windows, macOS, Linux or FAT would refuse is a finding.' },
};

/** For each sort of thing that has a name. */
const AllTargets = () => (
  <Box component="details" sx={{ fontSize: 13 }}>
    <summary>What takes which names, and who says so</summary>
    {NAME_SORTS.map((sort) => (
      <Box key={sort} sx={{ mt: 0.75 }}>
        <b>{SORT_WORDS[sort]}</b>
        <TargetList sort={sort} />
      </Box>
    ))}
  </Box>
);

/** Limits to choose from, and the one that the project has, whoever set it. */
function limitsWith(own: number | null): readonly { readonly most: number; readonly of: string | null }[] {
  const isKnown = own === null || LENGTH_LIMITS.some((l) => l.most === own);
  return isKnown ? LENGTH_LIMITS : [...LENGTH_LIMITS, { most: own, of: null }];
}

/** The rules that names of a project keep, each with its reason. */
export function NamingForm({ naming, onChange }: { naming: NamingRules; onChange: (naming: NamingRules) => void }) {
  const fault = naming.pattern === null ? null : patternFault(naming.pattern);
  const set = (change: Partial<NamingRules>): void => onChange({ ...naming, ...change });
  return (
    <Box sx={{ display: 'grid', gap: 1.5 }}>
      <TextField
        select
        label="Names have"
        value={naming.rules}
        onChange={(e) => set({ rules: e.target.value as RuleSet })}
        helperText={RULE_WORDS[naming.rules].why}
      >
        {RULE_SETS.map((r) => (
          <MenuItem key={r} value={r}>
            {RULE_WORDS[r].title}
          </MenuItem>
        ))}
      </TextField>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1.5 }}>
        <TextField
          select
          label="Longest name"
          value={naming.limit ?? ''}
          onChange={(e) => set({ limit: e.target.value === '' ? null : Number(e.target.value) })}
          slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
          helperText="Limits that a standard sets; a project file may have another one."
        >
          <MenuItem value="">no limit</MenuItem>
          {limitsWith(naming.limit).map(({ most, of }) => (
            <MenuItem key={most} value={most}>
              {most} characters{of === null ? '' : `: ${of}`}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          select
          label="ä becomes"
          value={naming.umlauts}
          onChange={(e) => set({ umlauts: e.target.value as NamingRules['umlauts'] })}
          helperText="Other letters follow their sound."
        >
          <MenuItem value="ae">ae</MenuItem>
          <MenuItem value="a">a</MenuItem>
        </TextField>
      </Box>
      <TextField
        label="Pattern for new names"
        value={naming.pattern ?? ''}
        placeholder="{site}_{topic}_{year}"
        onChange={(e) => set({ pattern: e.target.value === '' ? null : e.target.value })}
        error={fault !== null}
        helperText={fault ?? 'Parts: {site} {topic} {year} {initials} {number}'}
        slotProps={{ htmlInput: { className: 'mono' }, inputLabel: { shrink: true } }}
      />
      <AllTargets />
      {naming.pattern !== null && fault === null && (
        <>
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1.5 }}>
            {(['site', 'initials'] as const)
              .filter((part) => naming.pattern!.includes(`{${part}}`))
              .map((part) => (
                <TextField
                  key={part}
                  label={part}
                  value={naming.values[part] ?? ''}
                  onChange={(e) => set({ values: { ...naming.values, [part]: e.target.value } })}
                />
              ))}
          </Box>
          <Typography variant="body2" color="text.secondary">
            A new dataset about nests would be{' '}
            <span className="mono">{fillPattern(naming, { topic: 'nests' }, new Date().getFullYear(), () => false)}</span>
          </Typography>
        </>
      )}
    </Box>
  );
}
