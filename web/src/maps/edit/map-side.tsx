import { Box, Tab, Tabs, Typography } from '@mui/material';
import type { DraftLayer } from '@rootmap/core/contract';
import { many } from '../../parts/format.js';
import { Sheet } from '../../parts/states.js';
import { useUrlState } from '../../parts/use-url-state.js';
import { DigitisePanel } from '../digitise/digitise-panel.js';
import { ReferencesPanel } from '../references-panel.js';
import { RehearsalPanel } from '../rehearse/rehearsal-panel.js';
import { LayerDetails } from './layer-details.js';
import { LayerStack } from './layer-stack.js';
import type { MapScene } from './map-scene.js';
import { boxInDegrees } from './service-layers.js';
import { OpeningStack } from './opening-stack.js';
import type { MapWork } from './use-map-work.js';

type Panel = 'stack' | 'references' | 'rehearse';

interface Props {
  readonly work: MapWork;
  readonly scene: MapScene | null;
  /** What is drawn: a new dataset, or records of a layer; undefined: nothing is. */
  readonly drawing: DraftLayer | null | undefined;
  readonly onDraw: (what: DraftLayer | null | undefined) => void;
  readonly onCopyInCrs: (layer: DraftLayer) => void;
  readonly onPart: (layer: DraftLayer) => void;
}

/** The layers of the map with all that can be set, its references, and the rehearsal of a move. */
export function MapSide(props: Props) {
  const { project, path, editor } = props.work;
  const [search, set] = useUrlState();
  const panel = (search.get('panel') as Panel | null) ?? 'stack';
  return (
    <Sheet sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', borderBottom: '1px solid var(--rule)' }}>
        <Tabs
          value={panel}
          onChange={(_, v: Panel) => set({ panel: v === 'stack' ? null : v })}
          aria-label="What is shown of the map"
          sx={{ minHeight: 40, flex: 1, '& .MuiTab-root': { minHeight: 40, minWidth: 0, px: 1.5 } }}
        >
          <Tab value="stack" label="Layer stack" />
          <Tab value="references" label="References" />
          <Tab value="rehearse" label="Rehearse" />
        </Tabs>
        <Typography variant="body2" color="text.secondary" sx={{ pr: 1.5 }}>
          {many(editor.draft.layers.length, 'layer')}
        </Typography>
      </Box>
      {panel === 'references' ? (
        <ReferencesPanel
          project={project}
          map={project.maps.find((m) => m.relativePath === path) ?? null}
          layer={search.get('layer')}
          isNarrow
        />
      ) : panel === 'rehearse' ? (
        <RehearsalPanel project={project} map={path} hasUnsaved={editor.changes > 0} />
      ) : props.drawing !== undefined ? (
        <Drawing {...props} drawing={props.drawing} />
      ) : (
        <Stack {...props} />
      )}
    </Sheet>
  );
}

function Drawing({ work, scene, drawing, onDraw }: Props & { readonly drawing: DraftLayer | null }) {
  const dataset = drawing && work.known.factsOf(drawing).data;
  return (
    <DigitisePanel
      project={work.project}
      map={work.path}
      plane={work.plane}
      scene={scene}
      target={drawing && dataset ? { dataset, title: drawing.title } : null}
      onMade={(id) => work.add.mutate([id])}
      onClose={() => onDraw(undefined)}
    />
  );
}

function Stack({ work, onDraw, onCopyInCrs, onPart }: Props) {
  const { editor, project, rows, isOpen, select, selected } = work;
  const { draft, edit } = editor;
  return (
    <>
      <Box sx={{ overflowX: 'hidden', overflowY: 'auto', flex: selected ? '0 1 46%' : 1, minHeight: 120 }}>
        {draft.layers.length === 0 && (
          <Typography color="text.secondary" sx={{ p: 2 }}>
            This map has no layer yet. Bring data of the project into it: nothing is copied, the map only points at it.
          </Typography>
        )}
        {isOpen ? (
          <LayerStack
            rows={rows}
            mapCrs={draft.crs}
            selected={selected?.id ?? null}
            mendAddress={`/p/${project.key}/mend`}
            onSelect={(id) => select(id === selected?.id ? null : id)}
            onOrder={(ids) => edit({ ...draft, layers: ids.flatMap((id) => draft.layers.find((l) => l.id === id) ?? []) })}
            onActive={(ids, active) => edit({ ...draft, layers: draft.layers.map((l) => (ids.includes(l.id) ? { ...l, active } : l)) })}
          />
        ) : (
          <OpeningStack layers={draft.layers} />
        )}
      </Box>
      {isOpen && selected && (
        <Box sx={{ flex: '1 1 54%', overflow: 'auto', borderTop: '2px solid var(--rule)' }}>
          <Details work={work} layer={selected} onDraw={onDraw} onCopyInCrs={onCopyInCrs} onPart={onPart} />
        </Box>
      )}
    </>
  );
}

type DetailsProps = Pick<Props, 'work' | 'onDraw' | 'onCopyInCrs' | 'onPart'> & { readonly layer: DraftLayer };

function Details({ work, layer, onDraw, onCopyInCrs, onPart }: DetailsProps) {
  const { editor, known, project, states, select } = work;
  const { draft, edit } = editor;
  const facts = known.factsOf(layer);
  const canBeDrawnOn = facts.data?.dataset && facts.data.kind !== 'raster';
  return (
    <LayerDetails
      key={layer.id}
      projectKey={project.key}
      layer={layer}
      facts={facts}
      picture={states.get(layer.id)?.picture ?? null}
      others={draft.layers.filter((l) => l !== layer).map((l) => ({ layer: l, facts: known.factsOf(l) }))}
      groups={[...new Set(draft.layers.flatMap((l) => l.folder ?? []))]}
      mapCrs={draft.crs}
      onEdit={(more, what) => work.editLayer(layer.id, more, what)}
      inSight={() => {
        const extent = work.scene.current?.map.getView().calculateExtent();
        return extent && work.plane.crs?.proj4 ? boxInDegrees(extent, work.plane) : null;
      }}
      onRemove={() => (edit({ ...draft, layers: draft.layers.filter((l) => l !== layer) }), select(null))}
      onTable={() => work.showTable(layer.id)}
      onZoom={() => work.zoomTo(layer.id)}
      onCopyInCrs={() => onCopyInCrs(layer)}
      onPart={() => onPart(layer)}
      onDigitise={canBeDrawnOn ? () => onDraw(layer) : null}
    />
  );
}
