import { Autocomplete, Box, Button, Slider, Tab, Tabs, TextField, Typography } from '@mui/material';
import { useState } from 'react';
import { fieldOfLook, type Look, type ShapeKind } from '@rootmap/core';
import type { DraftLayer, LayerPictureView } from '@rootmap/core/contract';
import { number } from '../../parts/format.js';
import { PathText } from '../../parts/path-text.js';
import { FilterEditor } from './filter-editor.js';
import { LabelEditor } from './label-editor.js';
import { lookFor } from './layer-drawing.js';
import type { LayerFacts } from './layer-facts.js';
import { LookEditor } from './look-editor.js';
import { NumberField } from './number-field.js';
import { RasterLookEditor } from './raster-look-editor.js';

interface Props {
  readonly projectKey: string;
  readonly layer: DraftLayer;
  readonly facts: LayerFacts;
  readonly picture: LayerPictureView | null;
  readonly others: readonly { readonly layer: DraftLayer; readonly facts: LayerFacts }[];
  readonly groups: readonly string[];
  readonly mapCrs: string | null;
  readonly onEdit: (more: Partial<DraftLayer>, what: string | null) => void;
  readonly onRemove: () => void;
  readonly onZoom: () => void;
  readonly onCopyInCrs: () => void;
  readonly onDigitise: (() => void) | null;
}

/** Everything that can be set of one layer. */
export function LayerDetails(props: Props) {
  const { projectKey, layer, facts, picture, others, groups, mapCrs, onEdit, onRemove, onZoom, onCopyInCrs, onDigitise } = props;
  const [tab, setTab] = useState<'look' | 'labels' | 'filter' | 'layer'>('look');
  const { data, file } = facts;
  const kind = data?.kind ?? null;
  const shape: ShapeKind = kind === 'raster' || kind === 'table' || kind === null ? 'mixed' : kind;
  const look = lookFor(layer, kind);
  const fields = data?.fields ?? [];
  const isReprojected = data?.crs && mapCrs && data.crs !== mapCrs && kind !== 'raster';
  return (
    <Box component="section" aria-label={`Layer ${layer.title}`}>
      <Tabs
        value={tab}
        onChange={(_, v: typeof tab) => setTab(v)}
        sx={{ minHeight: 36, px: 1, '& .MuiTab-root': { minHeight: 36, minWidth: 0, px: 1.25 } }}
      >
        <Tab value="look" label="Look" />
        <Tab value="labels" label="Labels" disabled={kind === 'raster'} />
        <Tab value="filter" label="Filter" disabled={kind === 'raster'} />
        <Tab value="layer" label="Layer" />
      </Tabs>
      <Box sx={{ p: 1.5, pt: 1 }}>
        {tab === 'look' &&
          (data?.dataset === null || data === null ? (
            <Typography color="text.secondary">
              Its data is not there now. Its look is kept as it is, and can be set when the data is found.
            </Typography>
          ) : look.kind === 'raster' ? (
            <RasterLookEditor look={look} picture={picture} onChange={(l, what) => onEdit({ look: l }, what ?? null)} />
          ) : (
            <LookEditor
              projectKey={projectKey}
              dataset={data.dataset}
              look={look}
              kind={shape}
              fields={fields}
              filter={layer.filter}
              picture={picture}
              copies={others.flatMap((o) =>
                copyOf(
                  o.layer,
                  o.facts,
                  kind,
                  fields.map((f) => f.name),
                ),
              )}
              onChange={(l, what) => onEdit({ look: l }, what ?? null)}
            />
          ))}
        {tab === 'labels' && (
          <LabelEditor label={layer.label} kind={shape} fields={fields} onChange={(label, what) => onEdit({ label, look }, what ?? null)} />
        )}
        {tab === 'filter' && (
          <FilterEditor
            filter={layer.filter}
            fields={fields}
            count={data?.count ?? null}
            hidden={picture?.hidden ?? null}
            onChange={(filter) => onEdit({ filter }, null)}
          />
        )}
        {tab === 'layer' && (
          <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
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
            {data && (
              <Typography variant="body2" color="text.secondary" component="div">
                {data.count !== null && <div>{number(data.count)} records</div>}
                <div>
                  {data.crs ? `${data.crsName ?? ''} (${data.crs})` : 'Its CRS is not known: it is drawn as if in that of the map.'}
                </div>
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
                Its style is a file: <PathText path={file.style.href ?? ''} most={40} />. A look that is set here is written into the map
                instead.
              </Typography>
            )}
            <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1 }}>
              <Button variant="outlined" onClick={onZoom} disabled={!data?.degrees && !data?.bbox}>
                Zoom to it
              </Button>
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
              <Button color="secondary" onClick={onRemove}>
                Take it out of the map
              </Button>
            </Box>
          </Box>
        )}
      </Box>
    </Box>
  );
}

/** The look of another layer, and why this one cannot have it: another kind of shape, or a field that is missing. */
function copyOf(
  layer: DraftLayer,
  facts: LayerFacts,
  kind: string | null,
  fields: readonly string[],
): { title: string; look: Look; why: string | null }[] {
  if (facts.data?.kind !== kind || layer.look === null || layer.look.kind === 'raster') return [];
  const needed = [fieldOfLook(layer.look)].filter((f) => f !== null);
  const missing = needed.filter((f) => !fields.includes(f));
  return [{ title: layer.title, look: layer.look, why: missing.length > 0 ? `there is no field ${missing.join(', ')} here` : null }];
}
