import { endText, isInOrder, kindOfAddress, lookFor, type RasterRange } from '@rootmap/core';
import { useSortable } from '@dnd-kit/sortable';
import { mdiDragVertical, mdiEarth, mdiEyeOffOutline, mdiEyeOutline } from '@mdi/js';
import { Box, ButtonBase, IconButton, LinearProgress, Link as MuiLink } from '@mui/material';
import { Link } from 'react-router';
import type { DraftLayer } from '@rootmap/core/contract';
import { Icon } from '../../parts/icon.js';
import { PathText } from '../../parts/path-text.js';
import { Tether } from '../../parts/tether.js';
import { layerWords, type LayerFacts } from './layer-facts.js';
import { LookSwatch } from './swatch.js';

export interface StackRow {
  readonly layer: DraftLayer;
  readonly facts: LayerFacts;
  /** It is drawn at the scale of the map now. */
  readonly isInScale: boolean;
  /** Of a raster, the values at the ends of its colours. */
  readonly range: RasterRange | null;
  readonly isReading: boolean;
  readonly problem: string | null;
}
interface Group {
  readonly name: string;
  readonly ids: readonly string[];
  readonly active: boolean;
}
export interface RowActs {
  readonly mapCrs: string | null;
  readonly mendAddress: string;
  readonly onSelect: (id: string) => void;
  readonly onActive: (ids: readonly string[], active: boolean) => void;
}
interface Props extends RowActs {
  readonly row: StackRow;
  readonly isSelected: boolean;
  readonly group: Group | null;
}

/** One layer of the stack, under the head of its group where it is the first of it. */
export function LayerRow({ row, mapCrs, isSelected, mendAddress, onSelect, onActive, group }: Props) {
  const { layer, isReading } = row;
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({ id: layer.id });
  const { file } = row.facts;
  const isBroken = file !== null && !isInOrder(file.state) && file.state !== 'absent';
  return (
    <Box
      component="li"
      ref={setNodeRef}
      style={{ transform: transform ? `translate3d(0, ${transform.y}px, 0)` : undefined, transition }}
      sx={{ position: 'relative', zIndex: isDragging ? 2 : 0, bgcolor: 'var(--sheet)', borderBottom: '1px solid var(--rule)' }}
    >
      {group && <GroupHead group={group} onActive={onActive} />}
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
        <LayerButton row={row} mapCrs={mapCrs} isSelected={isSelected} isBroken={isBroken} onSelect={onSelect} />
        <Eye isOn={layer.active} what={layer.title} onToggle={() => onActive([layer.id], !layer.active)} />
      </Box>
      <Matter row={row} isBroken={isBroken} mendAddress={mendAddress} />
      {isReading && <LinearProgress aria-label={`Reading ${layer.title}`} sx={{ height: 2 }} />}
    </Box>
  );
}

const GroupHead = ({ group, onActive }: { group: Group; onActive: RowActs['onActive'] }) => (
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
);

/** A service paints it: there is no look of one's own. */
const isPicture = (href: string | null): boolean => href !== null && ['wms', 'tiles'].includes(kindOfAddress(href) ?? '');

interface ButtonProps extends Pick<Props, 'row' | 'mapCrs' | 'isSelected' | 'onSelect'> {
  readonly isBroken: boolean;
}

/** Its look, title and source in two lines: choosing it opens what can be set. */
function LayerButton({ row: { layer, facts, isInScale, range }, mapCrs, isSelected, isBroken, onSelect }: ButtonProps) {
  const { file, fresh, data } = facts;
  const bond = file ?? (fresh ? { stored: 'relative' as const, reach: fresh.reach, state: 'sound' as const } : null);
  const words = [...(range ? [`${endText(range.from)} to ${endText(range.to)}`] : []), ...layerWords(layer, facts, mapCrs)];
  return (
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
        {isPicture(file?.href ?? null) ? (
          <Icon path={mdiEarth} sx={{ fontSize: 20, color: 'var(--slate)' }} />
        ) : (
          <LookSwatch look={lookFor(layer, data?.kind ?? null)} kind={data?.kind ?? null} />
        )}
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
  );
}

/** What is the matter with its data, or with where it stands. */
function Matter({ row: { facts, problem }, isBroken, mendAddress }: Pick<Props, 'row' | 'mendAddress'> & { readonly isBroken: boolean }) {
  const { file, fresh } = facts;
  if (!isBroken && problem === null && !fresh?.otherProject && fresh?.reach !== 'outside') return null;
  return (
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
      {isBroken && file ? (
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
  );
}

const Eye = ({ isOn, what, onToggle }: { isOn: boolean; what: string; onToggle: () => void }) => (
  <IconButton size="small" aria-label={`Show ${what}`} aria-pressed={isOn} onClick={onToggle}>
    <Icon path={isOn ? mdiEyeOutline : mdiEyeOffOutline} sx={{ fontSize: 18 }} />
  </IconButton>
);
