import { Box } from '@mui/material';
import { useMemo, useRef, useState, type KeyboardEvent, type ReactNode, type RefObject } from 'react';
import type { LayerView, ProjectView } from '@rootmap/core/contract';
import { RIGHT, RIGHT_X, WIDTH } from './diagram-geometry.js';
import { DiagramTools } from './diagram-tools.js';
import { findLayers } from './find-layers.js';
import { Ghost } from './ghost.js';
import { foldedAtFirst, layoutDiagram, type Thread } from './layout-diagram.js';
import { MapCard } from './map-card.js';
import type { SourceBox } from './source-boxes.js';
import { SourcesBox } from './sources-box.js';
import { ThreadEnds, ThreadLines } from './thread-lines.js';
import { useInSight, type Sight } from './use-in-sight.js';

interface Props {
  readonly project: ProjectView;
  readonly dataset: string | null;
  readonly onDataset: (id: string | null) => void;
}
const isIn = ({ from, to }: Sight, top: number, bottom: number): boolean => bottom >= from && top <= to;

/** Maps and layers on the left, the root and what is outside it on the right, a tether from each layer to its data. */
export function RootDiagram({ project, dataset, onDataset }: Props) {
  const [folded, setFolded] = useState(() => foldedAtFirst(project));
  const diagram = useMemo(() => layoutDiagram(project, folded), [project, folded]);
  const [marked, setMarked] = useState<string | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const sight = useInSight(scroller);
  const toggle = (path: string): void =>
    setFolded((before) => {
      const next = new Set(before);
      if (!next.delete(path)) next.add(path);
      return next;
    });
  /** What only passes by, from out of sight to out of sight, tells nothing. */
  const threads = useMemo(
    () => diagram.threads.filter((t) => isIn(sight, t.fromY, t.fromY) || isIn(sight, t.toY, t.toY)),
    [diagram, sight],
  );
  const target = marked ?? dataset;
  const hasGhosts = diagram.ghosts.length > 0;
  const { find, found, onFind, goTo } = useFind(project, folded, setFolded, setMarked, scroller);
  const lit = useMemo(() => litOf(threads, target, found), [threads, target, found]);
  return (
    <>
      <DiagramTools project={project} diagram={diagram} text={find.text} count={found.length} at={find.at} onFind={onFind} onGo={goTo} />
      <Box ref={scroller} sx={{ flex: 1, overflow: 'auto', px: 2, pt: 1.5 }} tabIndex={0} role="region" aria-label="Root diagram">
        <Box
          onKeyDown={(e) => moveFocus(e, scroller.current)}
          onMouseLeave={() => setMarked(null)}
          sx={{ position: 'relative', width: WIDTH, height: diagram.height, flex: 'none' }}
          role="group"
          aria-label="Root diagram: layers and where their data is"
        >
          <Layer sight={sight} height={diagram.height}>
            {diagram.boxes.map((b) => (
              <Boundary key={b.id} box={b} />
            ))}
            <g opacity={lit ? 0.12 : 0.92}>
              <ThreadLines threads={threads} hasGhosts={hasGhosts} />
            </g>
            {/* What is marked comes to the front. */}
            {lit && <ThreadLines threads={lit} hasGhosts={hasGhosts} />}
          </Layer>
          {diagram.maps
            .filter((m) => isIn(sight, m.y, m.y + m.height))
            .map((m) => (
              <MapCard
                key={m.map.path}
                node={m}
                projectKey={project.key}
                marked={target}
                onMark={setMarked}
                onToggle={() => toggle(m.map.path)}
                threads={diagram.threadOf}
              />
            ))}
          {diagram.boxes
            .filter((b) => isIn(sight, b.y, b.y + b.height))
            .map((b) => (
              <SourcesBox key={b.id} box={b} sight={sight} marked={target} onMark={setMarked} onPick={onDataset} picked={dataset} />
            ))}
          {diagram.ghosts
            .filter((g) => isIn(sight, g.y, g.y + g.height))
            .map((g) => (
              <Ghost key={g.id} ghost={g} projectKey={project.key} onMark={setMarked} />
            ))}
          <Layer sight={sight} height={diagram.height}>
            <g opacity={lit ? 0.15 : 1}>
              <ThreadEnds threads={threads} />
            </g>
            {lit && <ThreadEnds threads={lit} />}
          </Layer>
        </Box>
      </Box>
    </>
  );
}

/** What is looked for in the diagram, what has it, and how to go from one to the next. */
function useFind(
  project: ProjectView,
  folded: ReadonlySet<string>,
  onFolded: (folded: Set<string>) => void,
  onMark: (id: string | null) => void,
  scroller: RefObject<HTMLDivElement | null>,
) {
  const [find, setFind] = useState({ text: '', at: -1 });
  const found = useMemo(() => findLayers(project, find.text), [project, find.text]);
  /** Goes to one of the layers that were found: its map opens, and its row comes into sight. */
  const goTo = (index: number): void => {
    const layer = found[index];
    if (!layer) return;
    const open = new Set(folded);
    open.delete(layer.map);
    onFolded(open);
    setFind((f) => ({ ...f, at: index }));
    const row = layoutDiagram(project, open).maps.flatMap((m) => m.rows).find((r) => r.layers.includes(layer)); // prettier-ignore
    onMark(row?.id ?? null);
    if (row) requestAnimationFrame(() => scroller.current?.scrollTo({ top: row.y - scroller.current.clientHeight / 2 }));
  };
  const onFind = (text: string): void => {
    onMark(null);
    setFind({ text, at: -1 });
  };
  return { find, found, onFind, goTo };
}

/** The part of a drawing that is in sight: a picture as high as the whole diagram would be slow. */
function Layer({ sight, height, children }: { sight: Sight; height: number; children: ReactNode }) {
  const [from, to] = [Math.max(0, sight.from), Math.min(height, sight.to)];
  const size = { width: WIDTH, height: Math.max(1, to - from) };
  return (
    <svg
      {...size}
      viewBox={`0 ${from} ${size.width} ${size.height}`}
      style={{ position: 'absolute', left: 0, top: from, pointerEvents: 'none' }}
      aria-hidden
    >
      {children}
    </svg>
  );
}

/** Tethers that are marked, or lead from a layer that was found; null: none is, and all are alike. */
function litOf(threads: readonly Thread[], target: string | null, found: readonly LayerView[]): readonly Thread[] | null {
  if (target !== null) return threads.filter((t) => t.row === target || t.target === target);
  if (found.length === 0) return null;
  const keys = new Set(found.map((l) => l.key));
  return threads.filter((t) => t.layers.some((l) => keys.has(l)));
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
