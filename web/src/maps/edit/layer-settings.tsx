import { Autocomplete, Box, Button, Slider, TextField, Typography } from '@mui/material';
import { useOpenProject } from '../../frame/use-project.js';
import { PathMenu } from '../../parts/path-menu.js';
import type { DraftLayer, LayerDataView } from '@rootmap/core/contract';
import { number } from '../../parts/format.js';
import { PathText } from '../../parts/path-text.js';
import type { LayerFacts } from './layer-facts.js';
import { NumberField } from './number-field.js';

export interface LayerActs {
  readonly onRemove: () => void;
  readonly onZoom: () => void;
  readonly onTable: () => void;
  readonly onPart: () => void;
  readonly onCopyInCrs: () => void;
  readonly onDigitise: (() => void) | null;
}
interface Props extends LayerActs {
  readonly layer: DraftLayer;
  readonly facts: LayerFacts;
  readonly groups: readonly string[];
  readonly mapCrs: string | null;
  readonly onEdit: (more: Partial<DraftLayer>, what: string | null) => void;
}

/** A layer by itself: its title, group, opacity and scales, what its data is, and what can be done with it. */
export const LayerSettings = (props: Props) => (
  <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
    <Settings {...props} />
    <Told facts={props.facts} />
    <Acts {...props} />
  </Box>
);

const Settings = ({ layer, groups, onEdit }: Props) => (
  <>
    <TextField
      size="small"
      label="Title"
      value={layer.title}
      onChange={(e) => onEdit({ title: e.target.value }, 'title')}
      helperText="The title is the layer's own; the file keeps its name."
    />
    <Autocomplete<string, false, false, true>
      freeSolo
      size="small"
      options={[...groups]}
      value={layer.folder ?? ''}
      onInputChange={(_, v, why) => why !== 'reset' && onEdit({ folder: v.trim() === '' ? null : v }, 'group')}
      onChange={(_, v) => onEdit({ folder: v === null || v.trim() === '' ? null : v }, null)}
      renderInput={(params) => <TextField {...params} label="Group" placeholder="none" />}
    />
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 2 }}>
      <Typography id="opacity-label" sx={{ fontSize: 13 }}>
        Opacity {Math.round(layer.opacity * 100)} %
      </Typography>
      <Slider
        size="small"
        aria-labelledby="opacity-label"
        value={Math.round(layer.opacity * 100)}
        onChange={(_, v) => onEdit({ opacity: v / 100 }, 'opacity')}
        sx={{ flex: 1, mr: 1 }}
      />
    </Box>
    <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', fontSize: 13 }}>
      Drawn from 1:
      <NumberField
        label="nearest"
        empty="any"
        width={110}
        min={1}
        value={layer.minScale}
        onChange={(minScale) => onEdit({ minScale }, null)}
      />
      to 1:
      <NumberField
        label="farthest"
        empty="any"
        width={110}
        min={1}
        value={layer.maxScale}
        onChange={(maxScale) => onEdit({ maxScale }, null)}
      />
    </Box>
  </>
);

function crsWords({ crs, crsName, isPlaced }: LayerDataView): string {
  if (crs !== null) return `${crsName ?? ''} (${crs})`;
  return isPlaced
    ? `${crsName ?? 'A CRS of its own'}: no code is registered for it, and it is computed from its definition.`
    : 'Its CRS is not known: a map that has one does not draw it.';
}

/** What its data is, and what of its style is not drawn as it was meant. */
const Told = ({ facts }: { facts: LayerFacts }) => {
  const { data, file } = facts;
  return (
    <>
      {data && (
        <Typography variant="body2" color="text.secondary" component="div">
          {data.count !== null && <div>{number(data.count)} records</div>}
          <div>{crsWords(data)}</div>
          <PathText path={file?.shownResolved ?? facts.fresh?.href ?? ''} most={54} />
        </Typography>
      )}
      {file && file.style.losses.length > 0 && (
        <Box sx={{ borderLeft: '3px solid var(--ochre)', pl: 1, fontSize: 13 }}>
          Drawn otherwise than its style says: {file.style.losses.join('; ')}.
        </Box>
      )}
      {file?.style.kind === 'file' && (
        <Typography variant="body2">
          Its style is a file: <PathText path={file.style.href ?? ''} most={40} />. A look that is set here is written into the map instead.
        </Typography>
      )}
    </>
  );
};

function Acts({ facts: { data }, mapCrs, onZoom, onTable, onPart, onDigitise, onCopyInCrs, onRemove }: Props) {
  const project = useOpenProject();
  const isReprojected = data?.dataset && data.crs && mapCrs && data.crs !== mapCrs;
  return (
    <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1 }}>
      <Button variant="outlined" onClick={onZoom} disabled={!data?.degrees && !data?.bbox}>
        Zoom to it
      </Button>
      {data?.dataset && data.kind !== 'raster' && (
        <>
          <Button variant="outlined" onClick={onTable}>
            Table
          </Button>
          <Button variant="outlined" onClick={onPart}>
            Take a part out
          </Button>
        </>
      )}
      {onDigitise && (
        <Button variant="outlined" onClick={onDigitise}>
          Edit its shapes
        </Button>
      )}
      {isReprojected && (
        <Button variant="outlined" onClick={onCopyInCrs}>
          Make a copy in the map's CRS
        </Button>
      )}
      {data?.dataset && <PathMenu project={project} path={data.dataset.replace(/#[^/]*$/, '')} />}
      <Button color="secondary" onClick={onRemove}>
        Take it out of the map
      </Button>
    </Box>
  );
}
