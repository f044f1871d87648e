import { Box, Tooltip } from '@mui/material';
import { linkHorizontal } from 'd3-shape';
import { useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { Link } from 'react-router';
import type { ProjectView } from '@rootmap/core/contract';
import { shortPath } from '../parts/format.js';
import { STATE_COLOUR, TetherEnd, TetherLine } from '../parts/tether.js';
import { clip, END_X, GHOST_WIDTH, GHOST_X, LEFT, RIGHT, RIGHT_X, WIDTH } from './diagram-geometry.js';
import { foldedAtFirst, layoutDiagram, type GhostNode, type SourceBox, type Thread } from './layout-diagram.js';
import { MapCard } from './map-card.js';
import { SourcesBox } from './sources-box.js';

const curve = linkHorizontal<{ source: [number, number]; target: [number, number] }, [number, number]>()
  .source((d) => d.source)
  .target((d) => d.target);

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
        <SourcesBox key={b.id} box={b} marked={target} onMark={setMarked} onPick={onDataset} picked={dataset} />
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
