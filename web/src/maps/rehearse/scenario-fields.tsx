import { Box, Button, MenuItem, TextField } from '@mui/material';
import type { ProjectView } from '@rootmap/core/contract';
import { usePlaces } from '../../api/queries.js';
import { useDrives } from '../../places/drives.js';
import { drivesToName, firstScenario, SCENARIO_WORDS, type Scenario, type ScenarioKind } from './scenario.js';

interface Props {
  readonly project: ProjectView;
  readonly scenario: Scenario;
  readonly onScenario: (scenario: Scenario) => void;
  readonly onChooseFolder: () => void;
}

/** What is to happen to the project, in words, and what it takes to say so. */
export function ScenarioFields(props: Props) {
  const { project, scenario, onScenario } = props;
  const places = usePlaces().data ?? [];
  return (
    <Box sx={{ p: 1.5, display: 'flex', flexWrap: 'wrap', gap: 1, alignItems: 'center' }}>
      <TextField
        select
        size="small"
        label="What will happen"
        value={scenario.kind}
        onChange={(e) => onScenario(firstScenario(e.target.value as ScenarioKind, places, project.place))}
        sx={{ minWidth: 0, flex: '1 1 300px', maxWidth: 420 }}
      >
        {Object.entries(SCENARIO_WORDS).map(([kind, words]) => (
          <MenuItem key={kind} value={kind}>
            {words}
          </MenuItem>
        ))}
      </TextField>
      <Where {...props} names={places.map((p) => p.name)} />
    </Box>
  );
}

function Where({ scenario, onScenario, onChooseFolder, names }: Props & { readonly names: readonly string[] }) {
  return (
    <>
      {scenario.kind === 'move' && (
        <Button variant="outlined" onClick={onChooseFolder}>
          {scenario.to ? `Into ${scenario.to.place}/${scenario.to.path}` : 'Choose the folder…'}
        </Button>
      )}
      {(scenario.kind === 'stick' || scenario.kind === 'drive') && (
        <>
          {scenario.kind === 'drive' && (
            <PlaceChoice value={scenario.place} names={names} onChange={(place) => onScenario({ ...scenario, place })} />
          )}
          <TextField
            size="small"
            label={scenario.kind === 'stick' ? 'The stick is' : 'is called'}
            value={scenario.drive}
            onChange={(e) => onScenario({ ...scenario, drive: e.target.value })}
            sx={{ width: 110 }}
            slotProps={{ htmlInput: { className: 'mono', list: 'drives-here' } }}
          />
          <DrivesHere kind={scenario.kind} />
        </>
      )}
      {scenario.kind === 'without' && (
        <PlaceChoice value={scenario.place} names={names} onChange={(place) => onScenario({ ...scenario, place })} />
      )}
      {scenario.kind === 'long' && (
        <TextField
          size="small"
          label="Path"
          value={scenario.path}
          onChange={(e) => onScenario({ ...scenario, path: e.target.value })}
          sx={{ flex: '1 1 260px' }}
          slotProps={{ htmlInput: { className: 'mono' } }}
        />
      )}
    </>
  );
}

/** The drives that this machine has, to choose from. */
function DrivesHere({ kind }: { kind: 'stick' | 'drive' }) {
  const { data } = useDrives();
  return (
    <datalist id="drives-here">
      {drivesToName(data ?? [], kind).map((name) => (
        <option key={name} value={name} />
      ))}
    </datalist>
  );
}

const PlaceChoice = ({ value, names, onChange }: { value: string; names: readonly string[]; onChange: (name: string) => void }) => (
  <TextField select size="small" label="Place" value={value} onChange={(e) => onChange(e.target.value)} sx={{ width: 130 }}>
    {names.map((n) => (
      <MenuItem key={n} value={n}>
        {n}
      </MenuItem>
    ))}
  </TextField>
);
