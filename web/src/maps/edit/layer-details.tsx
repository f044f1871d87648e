import { Box, Tab, Tabs, Typography } from '@mui/material';
import { useState } from 'react';
import { fieldOfLook, type Look, lookFor, type ShapeKind } from '@rootmap/core';
import type { DraftLayer, LayerPictureView } from '@rootmap/core/contract';
import { FilterEditor } from './filter-editor.js';
import { LabelEditor } from './label-editor.js';
import type { LayerFacts } from './layer-facts.js';
import { LooksMenu } from './looks-menu.js';
import { LookEditor } from './look-editor.js';
import { LayerSettings, type LayerActs } from './layer-settings.js';
import { ServiceLook } from './service-look.js';
import { RasterLookEditor } from './raster-look-editor.js';

interface Props extends LayerActs {
  readonly projectKey: string;
  readonly layer: DraftLayer;
  readonly facts: LayerFacts;
  readonly picture: LayerPictureView | null;
  readonly others: readonly { readonly layer: DraftLayer; readonly facts: LayerFacts }[];
  readonly groups: readonly string[];
  readonly mapCrs: string | null;
  readonly onEdit: (more: Partial<DraftLayer>, what: string | null) => void;
  /** What the map shows now, in degrees; null: it cannot be told. */
  readonly inSight: () => readonly [number, number, number, number] | null;
}

/** Everything that can be set of one layer. */
export function LayerDetails(props: Props) {
  const { layer, facts, picture, onEdit } = props;
  const [tab, setTab] = useState<'look' | 'labels' | 'filter' | 'layer'>('look');
  const { data } = facts;
  const kind = data?.kind ?? null;
  const shape = shapeOf(kind);
  const look = lookFor(layer, kind);
  const fields = data?.fields ?? [];
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
        {tab === 'look' && (
          <>
            <LookTab {...props} />
            {data?.dataset && (
              <Box sx={{ mt: 1 }}>
                <LooksMenu
                  title={layer.title}
                  kind={kind}
                  fields={fields}
                  look={look}
                  label={layer.label}
                  onTake={(taken, label) => onEdit({ look: taken, label }, null)}
                />
              </Box>
            )}
          </>
        )}
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
        {tab === 'layer' && <LayerSettings {...props} />}
      </Box>
    </Box>
  );
}

const shapeOf = (kind: NonNullable<LayerFacts['data']>['kind']): ShapeKind =>
  kind === 'raster' || kind === 'table' || kind === null ? 'mixed' : kind;

function LookTab({ projectKey, layer, facts: { data, file }, picture, others, onEdit, inSight }: Props) {
  const kind = data?.kind ?? null;
  const look = lookFor(layer, kind);
  const fields = data?.fields ?? [];
  const names = fields.map((f) => f.name);
  if (file?.reach === 'service' && file.href !== null) return <ServiceLook href={file.href} title={layer.title} inSight={inSight} />;
  if (data === null || data.dataset === null)
    return (
      <Typography color="text.secondary">
        Its data is not there now. Its look is kept as it is, and can be set when the data is found.
      </Typography>
    );
  if (look.kind === 'raster')
    return <RasterLookEditor look={look} picture={picture} onChange={(l, what) => onEdit({ look: l }, what ?? null)} />;
  return (
    <LookEditor
      projectKey={projectKey}
      dataset={data.dataset}
      look={look}
      kind={shapeOf(kind)}
      fields={fields}
      filter={layer.filter}
      picture={picture}
      copies={others.flatMap((o) => copyOf(o.layer, o.facts, kind, names))}
      onChange={(l, what) => onEdit({ look: l }, what ?? null)}
    />
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
