import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { mdiDragVertical, mdiEyeOffOutline, mdiEyeOutline } from '@mdi/js';
import { Box, ButtonBase, IconButton, LinearProgress, Link as MuiLink } from '@mui/material';
import { Link } from 'react-router';
import type { DraftLayer } from '@rootmap/core/contract';
import { Icon } from '../../parts/icon.js';
import { PathText } from '../../parts/path-text.js';
import { Tether } from '../../parts/tether.js';
import { lookFor } from './layer-drawing.js';
import { layerWords, type LayerFacts } from './layer-facts.js';
import { LookSwatch } from './swatch.js';

export interface StackRow {
  readonly layer: DraftLayer;
  readonly facts: LayerFacts;
  /** It is drawn at the scale of the map now. */
  readonly isInScale: boolean;
  readonly isReading: boolean;
  readonly problem: string | null;
}
interface Props {
  readonly rows: readonly StackRow[];
  readonly mapCrs: string | null;
  readonly selected: string | null;
  readonly mendAddress: string;
  readonly onSelect: (id: string) => void;
  readonly onOrder: (ids: readonly string[]) => void;
  readonly onActive: (ids: readonly string[], active: boolean) => void;
}

/** The layers, the first drawn on top. Dragged by their handles, or moved by the keyboard: Space, arrows, Space. */
export function LayerStack({ rows, mapCrs, selected, mendAddress, onSelect, onOrder, onActive }: Props) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const ids = rows.map((r) => r.layer.id);
  const drop = ({ active, over }: DragEndEvent): void => {
    if (!over || active.id === over.id) return;
    const rest = ids.filter((id) => id !== active.id);
    const at = ids.indexOf(String(over.id));
    onOrder([...rest.slice(0, at), String(active.id), ...rest.slice(at)]);
  };
  const title = (id: string | number): string => rows.find((r) => r.layer.id === id)?.layer.title ?? 'layer';
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={drop}
      accessibility={{
        announcements: {
          onDragStart: ({ active }) => `${title(active.id)} is lifted.`,
          onDragOver: ({ active, over }) => (over ? `${title(active.id)} is over ${title(over.id)}.` : undefined),
          onDragEnd: ({ active, over }) =>
            over ? `${title(active.id)} was put at the place of ${title(over.id)}.` : `${title(active.id)} stays.`,
          onDragCancel: ({ active }) => `${title(active.id)} stays where it was.`,
        },
      }}
    >
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        <Box component="ol" aria-label="Layer stack" sx={{ listStyle: 'none', m: 0, p: 0 }}>
          {rows.map((row, i) => {
            const { folder } = row.layer;
            const opens = folder !== null && folder !== rows[i - 1]?.layer.folder;
            const group = opens ? rows.filter((r) => r.layer.folder === folder) : [];
            return (
              <Row
                key={row.layer.id}
                row={row}
                mapCrs={mapCrs}
                isSelected={row.layer.id === selected}
                mendAddress={mendAddress}
                onSelect={onSelect}
                onActive={onActive}
                group={opens ? { name: folder, ids: group.map((r) => r.layer.id), active: group.some((r) => r.layer.active) } : null}
              />
            );
          })}
        </Box>
      </SortableContext>
    </DndContext>
  );
}

interface RowProps extends Pick<Props, 'mapCrs' | 'mendAddress' | 'onSelect' | 'onActive'> {
  readonly row: StackRow;
  readonly isSelected: boolean;
  readonly group: { readonly name: string; readonly ids: readonly string[]; readonly active: boolean } | null;
}

function Row({ row, mapCrs, isSelected, mendAddress, onSelect, onActive, group }: RowProps) {
  const { layer, facts, isInScale, isReading, problem } = row;
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({ id: layer.id });
  const { file, fresh, data } = facts;
  const isBroken = file !== null && !['sound', 'absent'].includes(file.state);
  const bond = file ?? (fresh ? { stored: 'relative' as const, reach: fresh.reach, state: 'sound' as const } : null);
  const words = layerWords(layer, facts, mapCrs);
  return (
    <Box
      component="li"
      ref={setNodeRef}
      style={{ transform: transform ? `translate3d(0, ${transform.y}px, 0)` : undefined, transition }}
      sx={{ position: 'relative', zIndex: isDragging ? 2 : 0, bgcolor: 'var(--sheet)', borderBottom: '1px solid var(--rule)' }}
    >
      {group && (
        <Box
          sx={{
            display: 'flex',
            alignItems: 'center',
            bgcolor: 'var(--sunk)',
            pl: 4.5,
            pr: 0.5,
            fontSize: 12,
            fontWeight: 650,
            color: 'text.secondary',
          }}
        >
          <Box sx={{ flex: 1 }}>{group.name}</Box>
          <Eye isOn={group.active} what={`group ${group.name}`} onToggle={() => onActive(group.ids, !group.active)} />
        </Box>
      )}
      <Box
        data-layer={layer.id}
        sx={{
          display: 'grid',
          gridTemplateColumns: '24px minmax(0, 1fr) 34px',
          alignItems: 'center',
          pl: layer.folder ? 1.5 : 0.5,
          bgcolor: isSelected ? 'var(--spruce-wash)' : isBroken ? 'var(--plum-wash)' : undefined,
          boxShadow: isSelected ? 'inset 3px 0 0 var(--spruce)' : undefined,
        }}
      >
        <IconButton
          ref={setActivatorNodeRef}
          {...attributes}
          {...listeners}
          aria-label={`Move ${layer.title}`}
          size="small"
          sx={{ cursor: 'grab', p: 0.25, touchAction: 'none' }}
        >
          <Icon path={mdiDragVertical} sx={{ fontSize: 18, color: 'text.secondary' }} />
        </IconButton>
        <ButtonBase
          onClick={() => onSelect(layer.id)}
          aria-pressed={isSelected}
          sx={{
            display: 'block',
            textAlign: 'left',
            fontFamily: 'inherit',
            py: 0.75,
            px: 0.5,
            minWidth: 0,
            opacity: layer.active && isInScale ? 1 : 0.62,
          }}
        >
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, minWidth: 0 }}>
            <LookSwatch look={lookFor(layer, data?.kind ?? null)} kind={data?.kind ?? null} />
            <Box
              component="span"
              sx={{ fontWeight: 650, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap', flex: '0 1 auto' }}
            >
              {layer.title || 'no title'}
            </Box>
            <Box
              component="span"
              title={words.join(' · ')}
              sx={{
                ml: 'auto',
                pl: 1,
                fontSize: 12,
                color: 'text.secondary',
                overflow: 'hidden',
                textOverflow: 'ellipsis',
                whiteSpace: 'nowrap',
                flex: '0 2 auto',
              }}
            >
              {!isInScale ? 'not at this scale' : words.join(' · ')}
            </Box>
          </Box>
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.75, minWidth: 0, mt: 0.25, pl: 0.25 }}>
            {bond && <Tether bond={bond} />}
            <PathText
              path={file?.href ?? fresh?.href ?? 'no source recorded'}
              most={46}
              isInRow
              {...(isBroken ? { colour: 'var(--plum)' } : {})}
            />
          </Box>
        </ButtonBase>
        <Eye isOn={layer.active} what={layer.title} onToggle={() => onActive([layer.id], !layer.active)} />
      </Box>
      {(isBroken || problem !== null || fresh?.otherProject || fresh?.reach === 'outside') && (
        <Box
          sx={{
            pl: 5,
            pr: 1,
            pb: 0.75,
            fontSize: 12.5,
            color: isBroken ? 'var(--plum)' : 'var(--ochre)',
            bgcolor: isBroken ? 'var(--plum-wash)' : undefined,
          }}
        >
          {isBroken ? (
            <>
              {file.detail ?? file.reason ?? file.state}.{' '}
              <MuiLink component={Link} to={`${mendAddress}?layer=${encodeURIComponent(file.key)}`}>
                Mend it
              </MuiLink>
            </>
          ) : problem !== null ? (
            problem
          ) : fresh?.otherProject ? (
            `This data belongs to the project ${fresh.otherProject}.`
          ) : (
            'This data stands outside the project: it does not move with it.'
          )}
        </Box>
      )}
      {isReading && <LinearProgress aria-label={`Reading ${layer.title}`} sx={{ height: 2 }} />}
    </Box>
  );
}

const Eye = ({ isOn, what, onToggle }: { isOn: boolean; what: string; onToggle: () => void }) => (
  <IconButton size="small" aria-label={`Show ${what}`} aria-pressed={isOn} onClick={onToggle}>
    <Icon path={isOn ? mdiEyeOutline : mdiEyeOffOutline} sx={{ fontSize: 18 }} />
  </IconButton>
);
