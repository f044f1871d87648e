import { Box, Button, Tooltip, Typography } from '@mui/material';
import { linkHorizontal } from 'd3-shape';
import { useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { Link } from 'react-router';
import type { LayerView, ProjectView } from '@rootmap/core/contract';
import { kindWord, many, shortPath } from '../parts/format.js';
import { bondWords, STATE_COLOUR, TetherEnd, TetherLine } from '../parts/tether.js';
import { foldedAtFirst, layoutDiagram, ROW, type GhostNode, type MapNode, type SourceBox, type Thread } from './layout-diagram.js';

const LEFT = 264;
const WIDTH = 916;
const RIGHT_X = 560;
const RIGHT = WIDTH - RIGHT_X;
const GHOST_X = 358;
const GHOST_WIDTH = 158;
const END_X = RIGHT_X + 24;

const curve = linkHorizontal<{ source: [number, number]; target: [number, number] }, [number, number]>()
  .source((d) => d.source)
  .target((d) => d.target);

/** Where a click on a layer leads: to the mend where it is broken, else to its references. */
const linkOf = (key: string, map: string, l: LayerView): string =>
  l.state === 'sound' || l.state === 'absent'
    ? `/p/${key}/maps?map=${encodeURIComponent(map)}&layer=${encodeURIComponent(l.layer)}`
    : `/p/${key}/mend?layer=${encodeURIComponent(l.key)}`;

/** Maps and layers on the left, the root and what is outside it on the right, a tether from each layer to its data. */
export function RootDiagram({
  project,
  dataset,
  onDataset,
}: {
  project: ProjectView;
  dataset: string | null;
  onDataset: (id: string | null) => void;
}) {
  const [folded, setFolded] = useState(() => foldedAtFirst(project));
  const diagram = useMemo(() => layoutDiagram(project, folded), [project, folded]);
  const [marked, setMarked] = useState<string | null>(null);
  const box = useRef<HTMLDivElement>(null);
  const toggle = (path: string): void =>
    setFolded((before) => {
      const next = new Set(before);
      if (!next.delete(path)) next.add(path);
      return next;
    });
  const target = marked ?? dataset;
  const lit = (t: Thread): boolean => target === null || t.row === target || t.target === target;
  return (
    <Box
      ref={box}
      onKeyDown={(e) => moveFocus(e, box.current)}
      onMouseLeave={() => setMarked(null)}
      sx={{ position: 'relative', width: WIDTH, height: diagram.height, flex: 'none' }}
      role="group"
      aria-label="Root diagram: layers and where their data is"
    >
      <svg width={WIDTH} height={diagram.height} style={{ position: 'absolute', inset: 0, pointerEvents: 'none' }} aria-hidden>
        {diagram.boxes.map((b) => (
          <Boundary key={b.id} box={b} />
        ))}
        {diagram.threads.map((t) => (
          <ThreadLine key={t.id} thread={t} dim={!lit(t)} />
        ))}
      </svg>
      {diagram.maps.map((m) => (
        <MapCard
          key={m.map.path}
          node={m}
          projectKey={project.key}
          marked={target}
          onMark={setMarked}
          onToggle={() => toggle(m.map.path)}
          threads={diagram.threads}
        />
      ))}
      {diagram.boxes.map((b) => (
        <Sources key={b.id} box={b} marked={target} onMark={setMarked} onPick={onDataset} picked={dataset} />
      ))}
      {diagram.ghosts.map((g) => (
        <Ghost key={g.id} ghost={g} projectKey={project.key} onMark={setMarked} />
      ))}
      <svg width={WIDTH} height={diagram.height} style={{ position: 'absolute', inset: 0, pointerEvents: 'none' }} aria-hidden>
        {diagram.threads.map((t) => (
          <g key={t.id} opacity={lit(t) ? 1 : 0.15}>
            <circle cx={LEFT} cy={t.fromY} r={2.6} fill={STATE_COLOUR[t.bond.state]} />
            <TetherEnd x={t.toGhost ? GHOST_X : END_X} y={t.toY} bond={t.bond} />
          </g>
        ))}
      </svg>
    </Box>
  );
}

/** Up and down from row to row, left and right between the sides. */
function moveFocus(event: KeyboardEvent, box: HTMLElement | null): void {
  if (!box || !['ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight'].includes(event.key)) return;
  const at = (document.activeElement as HTMLElement | null)?.closest<HTMLElement>('[data-side]');
  if (!at) return;
  event.preventDefault();
  const upDown = event.key === 'ArrowUp' || event.key === 'ArrowDown';
  const side = upDown ? at.dataset['side'] : event.key === 'ArrowLeft' ? 'left' : 'right';
  const rows = [...box.querySelectorAll<HTMLElement>(`[data-side="${side}"]`)];
  if (upDown) rows[rows.indexOf(at) + (event.key === 'ArrowDown' ? 1 : -1)]?.focus();
  else {
    const y = at.getBoundingClientRect().top;
    const wanted = at.dataset['target'];
    const next =
      rows.find((r) => r.dataset['id'] === wanted) ??
      rows.sort((a, b) => Math.abs(a.getBoundingClientRect().top - y) - Math.abs(b.getBoundingClientRect().top - y))[0];
    next?.focus();
  }
}

function ThreadLine({ thread: t, dim }: { thread: Thread; dim: boolean }) {
  const apart = t.bond.state === 'adrift' || t.bond.state === 'absent' ? 12 : 0;
  const end = (t.toGhost ? GHOST_X : END_X) - apart;
  const d = curve({ source: [LEFT, t.fromY], target: [end, t.toY] }) ?? '';
  const bar = t.bond.reach === 'outside' && t.bond.stored === 'relative';
  return (
    <g opacity={dim ? 0.12 : 0.92}>
      <TetherLine d={d} bond={t.bond} width={t.count > 1 ? Math.min(3, 1 + Math.log2(t.count) / 2) : 1} />
      {bar && <path d={`M${RIGHT_X - 6} ${t.toY - 7}l8 14`} stroke={STATE_COLOUR[t.bond.state]} strokeWidth={2} />}
    </g>
  );
}

function Boundary({ box: b }: { box: SourceBox }) {
  const root = b.kind === 'root';
  const stroke = root ? 'var(--ink)' : b.kind === 'service' ? 'var(--slate)' : 'var(--stone)';
  return (
    <rect
      x={RIGHT_X + 1}
      y={b.y}
      width={RIGHT - 2}
      height={b.height}
      rx={8}
      fill={root ? 'var(--sheet)' : 'transparent'}
      stroke={stroke}
      strokeWidth={root ? 2 : 1.2}
      strokeDasharray={root ? undefined : b.kind === 'service' ? '2 4' : '6 4'}
    />
  );
}

const rowLook = {
  position: 'absolute',
  left: 0,
  right: 0,
  height: ROW,
  px: 1.5,
  display: 'flex',
  alignItems: 'center',
  justifyContent: 'space-between',
  gap: 1,
  color: 'var(--ink)',
  textDecoration: 'none',
  fontSize: 13,
  borderRadius: '4px',
  '&:hover, &:focus-visible': { bgcolor: 'var(--sunk)' },
} as const;
const clip = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

function MapCard({
  node,
  projectKey,
  marked,
  onMark,
  onToggle,
  threads,
}: {
  node: MapNode;
  projectKey: string;
  marked: string | null;
  onMark: (id: string | null) => void;
  onToggle: () => void;
  threads: readonly Thread[];
}) {
  const { map } = node;
  return (
    <Box
      component="section"
      aria-label={map.title}
      sx={{
        position: 'absolute',
        left: 0,
        top: node.y,
        width: LEFT,
        height: node.height,
        bgcolor: 'var(--sheet)',
        border: '1px solid var(--rule)',
        borderRadius: '6px',
        boxSizing: 'border-box',
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', pl: 1.5, pr: 0.5, height: 32 }}>
        <Typography
          variant="h3"
          component={Link}
          to={`/p/${projectKey}/maps?map=${encodeURIComponent(map.relativePath)}`}
          sx={{ flex: 1, color: 'inherit', textDecoration: 'none', ...clip, '&:hover': { textDecoration: 'underline' } }}
        >
          {map.title}
        </Typography>
        <Button
          onClick={onToggle}
          aria-expanded={!node.folded}
          sx={{ minWidth: 0, fontSize: 12, fontWeight: 400, color: 'text.secondary', px: 0.75 }}
        >
          {many(map.layers.length, 'layer')}
          {node.folded ? ' ▸' : ' ▾'}
        </Button>
      </Box>
      {node.rows.length === 0 && <Typography sx={{ px: 1.5, color: 'text.secondary', fontSize: 13 }}>no layers</Typography>}
      {node.rows.map((row) => {
        const l = row.layers[0]!;
        const thread = threads.find((t) => t.row === row.id);
        const common = {
          key: row.id,
          'data-side': 'left',
          'data-id': row.id,
          'data-target': thread?.target,
          onMouseEnter: () => onMark(row.id),
          onFocus: () => onMark(row.id),
          onBlur: () => onMark(null),
        };
        const style = { ...rowLook, top: row.y - node.y - ROW / 2 - 1, bgcolor: marked === row.id ? 'var(--sunk)' : undefined };
        const words = row.layers.length > 1 ? `${row.label}, ${bondWords(l)}` : `${l.title}, ${bondWords(l)}`;
        if (row.layers.length > 1)
          return (
            <Box
              component="button"
              {...common}
              key={row.id}
              onClick={onToggle}
              aria-label={words}
              sx={{ ...style, border: 0, bgcolor: 'transparent', font: 'inherit', width: '100%', cursor: 'pointer' }}
            >
              <span>{row.label}</span>
              <Box component="span" className="mono" sx={{ color: 'text.secondary', fontSize: 12, ...clip }}>
                {shortPath(thread?.target.replace(/^[^/]*\//, '') ?? '', 24)}
              </Box>
            </Box>
          );
        return (
          <Box component={Link} {...common} key={row.id} to={linkOf(projectKey, map.relativePath, l)} aria-label={words} sx={style}>
            <Box component="span" sx={{ ...clip, color: l.state === 'adrift' ? 'var(--plum)' : undefined }}>
              {row.label}
            </Box>
            <Box component="span" sx={{ color: 'text.secondary', fontSize: 12 }}>
              {kindWord(l.geometry)}
            </Box>
          </Box>
        );
      })}
    </Box>
  );
}

function Sources({
  box: b,
  marked,
  onMark,
  onPick,
  picked,
}: {
  box: SourceBox;
  marked: string | null;
  onMark: (id: string | null) => void;
  onPick: (id: string | null) => void;
  picked: string | null;
}) {
  return (
    <Box
      component="section"
      aria-label={b.title}
      sx={{ position: 'absolute', left: RIGHT_X, top: b.y, width: RIGHT, height: b.height, opacity: b.present ? 1 : 0.75 }}
    >
      {b.kind === 'root' ? (
        <Box
          className="mono"
          sx={{
            position: 'absolute',
            top: -10,
            left: 14,
            px: 1,
            height: 20,
            lineHeight: '20px',
            fontSize: 12.5,
            bgcolor: 'var(--ink)',
            color: 'var(--paper)',
            borderRadius: '3px',
            maxWidth: RIGHT - 40,
            ...clip,
          }}
        >
          {b.title}
        </Box>
      ) : (
        <Box sx={{ display: 'flex', justifyContent: 'space-between', px: 1.75, pt: 0.75, fontSize: 12.5, gap: 1 }}>
          <Box className="mono" sx={{ fontWeight: 700, color: b.kind === 'service' ? 'var(--slate)' : 'var(--ink)' }}>
            {b.title}
          </Box>
          <Box sx={{ color: 'text.secondary' }}>{b.note}</Box>
        </Box>
      )}
      {b.rows.map((r) =>
        r.kind === 'dataset' ? (
          <Box
            component="button"
            key={r.id}
            data-side="right"
            data-id={r.id}
            aria-pressed={picked === r.id}
            onMouseEnter={() => onMark(r.id)}
            onFocus={() => onMark(r.id)}
            onBlur={() => onMark(null)}
            onClick={() => onPick(picked === r.id ? null : r.id)}
            className="mono"
            sx={{
              ...rowLook,
              top: r.y - b.y - ROW / 2 + 1.5,
              height: ROW - 3,
              left: 24,
              right: 14,
              pl: 1.75,
              width: RIGHT - 38,
              border: 0,
              font: 'inherit',
              fontFamily: 'Iosevka, monospace',
              fontSize: 13,
              cursor: 'pointer',
              bgcolor: marked === r.id || picked === r.id ? 'var(--sunk)' : b.kind === 'root' ? 'var(--spruce-wash)' : 'var(--sunk)',
            }}
          >
            <Box component="span" sx={clip}>
              {r.label}
            </Box>
            {r.dataset && r.dataset.state !== 'ok' && (
              <Box component="span" sx={{ color: 'var(--ochre)', fontSize: 12 }}>
                {r.dataset.state}
              </Box>
            )}
          </Box>
        ) : (
          <Tooltip key={r.id} title={r.label.length > 40 ? r.label : ''}>
            <Box
              className="mono"
              sx={{ position: 'absolute', top: r.y - b.y - 10, left: 38, right: 12, fontSize: 12.5, color: 'var(--soft)', ...clip }}
            >
              {shortPath(r.label, 44)}
            </Box>
          </Tooltip>
        ),
      )}
    </Box>
  );
}

function Ghost({ ghost: g, projectKey, onMark }: { ghost: GhostNode; projectKey: string; onMark: (id: string | null) => void }) {
  const absent = g.layers.every((l) => l.state === 'absent');
  const tone = absent ? 'stone' : 'plum';
  return (
    <Tooltip title={<span className="mono">{g.label}</span>}>
      <Box
        component={Link}
        to={absent ? '/places' : `/p/${projectKey}/mend?layer=${encodeURIComponent(g.layers[0]!.key)}`}
        onMouseEnter={() => onMark(g.id)}
        onFocus={() => onMark(g.id)}
        onBlur={() => onMark(null)}
        sx={{
          position: 'absolute',
          left: GHOST_X,
          top: g.y,
          width: GHOST_WIDTH,
          height: g.height,
          boxSizing: 'border-box',
          border: `1.5px dashed var(--${tone})`,
          borderRadius: '6px',
          bgcolor: absent ? 'var(--sunk)' : 'var(--plum-wash)',
          color: `var(--${tone})`,
          textDecoration: 'none',
          fontSize: 12,
          lineHeight: 1.3,
          pl: 1.5,
          pr: 0.5,
          display: 'flex',
          flexDirection: 'column',
          justifyContent: 'center',
        }}
      >
        <span>was recorded at</span>
        <Box component="span" className="mono" sx={{ ...clip, fontSize: 12.5 }}>
          {shortPath(g.label, 24)}
        </Box>
        <span>{absent ? 'its place is absent' : 'nothing there now'}</span>
      </Box>
    </Tooltip>
  );
}
