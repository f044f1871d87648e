import { mdiChevronDown, mdiChevronRight } from '@mdi/js';
import {
  DndContext,
  DragOverlay,
  PointerSensor,
  pointerWithin,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import { Box } from '@mui/material';
import { defaultRangeExtractor, useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState, type KeyboardEvent, type MouseEvent, type RefObject } from 'react';
import { bytes, dateTime, many, number } from '../parts/format.js';
import { Icon } from '../parts/icon.js';
import { DragNote } from './drag-note.js';
import { Elsewhere, targetOf } from './elsewhere.js';
import type { DropTarget } from './drop-target.js';
import { folderOfRow, rangeOf, withoutInner, type Row } from './folder-rows.js';
import { RoleMark, RowIcon } from './marks.js';
import type { Selection } from './use-selection.js';

const ROW = 32;
const OPEN_ON_HOVER_MS = 700;
const COLUMNS = 'minmax(260px, 1fr) 112px 76px 124px 170px';

export interface TreeActions {
  readonly toggle: (path: string, open?: boolean) => void;
  readonly move: (paths: readonly string[], target: DropTarget) => void;
  readonly cut: () => void;
  readonly paste: (folder: string) => void;
  readonly rename: (path: string) => void;
  readonly remove: (paths: readonly string[]) => void;
}

interface Props {
  readonly projectKey: string;
  /** Targets outside the tree. */
  readonly elsewhere: readonly DropTarget[];
  readonly rows: readonly Row[];
  readonly selection: Selection;
  readonly cut: ReadonlySet<string>;
  readonly actions: TreeActions;
}

/** The tree as rows: only those in sight are drawn. Everything that a drag does can be done by keys. */
export function FolderTree({ projectKey, rows, elsewhere, selection, cut, actions }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [dragged, setDragged] = useState<readonly string[]>([]);
  const [over, setOver] = useState<DropTarget | null>(null);
  const overFolder = over?.kind === 'folder' ? over.folder : null;
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const virtual = useTreeRows(rows, box, dragged[0]);
  const focusAt = rows.findIndex((r) => r.path === selection.focus);
  useEffect(() => {
    if (focusAt >= 0) virtual.scrollToIndex(focusAt, { align: 'auto' });
  }, [focusAt, virtual]);
  useOpenOnHover(dragged.length > 0 ? overFolder : null, actions.toggle);

  const onDragEnd = (event: DragEndEvent): void => {
    const target = targetOf(event.over);
    if (target) actions.move(dragged, target);
    setDragged([]);
    setOver(null);
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={pointerWithin}
      onDragStart={({ active }) => {
        const path = String(active.id);
        if (!selection.paths.has(path)) selection.select([path], path);
        setDragged([path, ...withoutInner(selection.paths.has(path) ? [...selection.paths] : [path]).filter((p) => p !== path)]);
      }}
      onDragOver={({ over }) => setOver(targetOf(over))}
      onDragCancel={() => (setDragged([]), setOver(null))}
      onDragEnd={onDragEnd}
    >
      <Heads />
      <Box
        ref={box}
        role="treegrid"
        aria-label="Folders and what is in them"
        aria-multiselectable
        aria-rowcount={rows.length}
        tabIndex={0}
        aria-activedescendant={focusAt >= 0 ? `row-${focusAt}` : undefined}
        onKeyDown={(e) => onKey(e, rows, focusAt, selection, actions)}
        sx={{ flex: 1, minHeight: 0, overflow: 'auto', position: 'relative', outlineOffset: '-2px' }}
      >
        <Box role="presentation" sx={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => {
            const row = rows[item.index]!;
            return (
              <TreeRow
                key={row.path}
                row={row}
                index={item.index}
                top={item.start}
                largest={rows[0]!.bytes}
                isSelected={selection.paths.has(row.path)}
                isFocus={item.index === focusAt}
                isCut={cut.has(row.path)}
                isTarget={row.kind === 'folder' && row.path === overFolder && dragged.length > 0}
                onClick={(e) => onClick(e, row, rows, selection)}
                onToggle={() => actions.toggle(row.path)}
              />
            );
          })}
        </Box>
      </Box>
      {dragged.length > 0 && <Elsewhere targets={elsewhere} over={over} />}
      <DragOverlay dropAnimation={null}>
        {dragged.length > 0 && <DragNote projectKey={projectKey} paths={dragged} target={over} />}
      </DragOverlay>
    </DndContext>
  );
}

/** Rows in sight. The one that is being dragged stays drawn, also when it is scrolled out of it. */
function useTreeRows(rows: readonly Row[], box: RefObject<HTMLDivElement | null>, dragged: string | undefined) {
  return useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 12,
    rangeExtractor: (range) => {
      const held = dragged === undefined ? -1 : rows.findIndex((r) => r.path === dragged);
      const shown = defaultRangeExtractor(range);
      return held < 0 || shown.includes(held) ? shown : [...shown, held].sort((a, b) => a - b);
    },
  });
}

/** A closed folder opens when something is held over it. */
function useOpenOnHover(folder: string | null, toggle: TreeActions['toggle']): void {
  useEffect(() => {
    if (folder === null || folder === '') return;
    const timer = setTimeout(() => toggle(folder, true), OPEN_ON_HOVER_MS);
    return () => clearTimeout(timer);
  }, [folder, toggle]);
}

function onClick(e: MouseEvent, row: Row, rows: readonly Row[], selection: Selection): void {
  if (e.shiftKey && selection.focus !== null)
    selection.select(rangeOf(rows, selection.anchor ?? selection.focus, row.path), row.path, true);
  else if (e.ctrlKey || e.metaKey) selection.flip(row.path);
  else selection.select([row.path], row.path);
}

function onKey(e: KeyboardEvent, rows: readonly Row[], at: number, selection: Selection, actions: TreeActions): void {
  const row = rows[at];
  const go = (index: number): void => {
    const target = rows[Math.max(0, Math.min(rows.length - 1, index))];
    if (!target) return;
    if (e.shiftKey) selection.select(rangeOf(rows, selection.anchor ?? target.path, target.path), target.path, true);
    else if (e.ctrlKey || e.metaKey) selection.look(target.path);
    else selection.select([target.path], target.path);
  };
  const above = (): number => rows.findLastIndex((r, i) => i < at && r.depth < row!.depth);
  const isCommand = e.ctrlKey || e.metaKey;
  const done = (): void => e.preventDefault();
  if (isCommand && e.key.toLowerCase() === 'x') return (done(), actions.cut());
  if (isCommand && e.key.toLowerCase() === 'v') return (done(), row?.link === null ? actions.paste(folderOfRow(row)) : undefined);
  switch (e.key) {
    case 'ArrowDown':
      return (done(), go(at + 1));
    case 'ArrowUp':
      return (done(), go(at < 0 ? 0 : at - 1));
    case 'Home':
      return (done(), go(0));
    case 'End':
      return (done(), go(rows.length - 1));
    case 'PageDown':
      return (done(), go(at + 15));
    case 'PageUp':
      return (done(), go(at - 15));
    case 'ArrowRight':
      if (row?.kind !== 'folder') return;
      return (done(), row.isOpen ? go(at + 1) : actions.toggle(row.path, true));
    case 'ArrowLeft':
      if (!row) return;
      return (done(), row.kind === 'folder' && row.isOpen && row.path !== '' ? actions.toggle(row.path, false) : go(above()));
    case 'Enter':
      return row?.kind === 'folder' ? (done(), actions.toggle(row.path)) : undefined;
    case ' ':
      return (done(), row && selection.flip(row.path));
    case 'F2':
      done();
      if (row && row.path !== '' && row.link === null) actions.rename(row.path);
      return;
    case 'Delete':
      return (done(), actions.remove(withoutInner([...selection.paths])));
    default:
      if (e.key.length === 1 && !isCommand && !e.altKey && e.key !== '/' && e.key !== '?') {
        const next = [...rows.slice(at + 1), ...rows.slice(0, at + 1)].find((r) => r.name.toLowerCase().startsWith(e.key.toLowerCase()));
        if (next) selection.select([next.path], next.path);
      }
  }
}

const Heads = () => (
  <Box
    aria-hidden
    sx={{
      display: 'grid',
      gridTemplateColumns: COLUMNS,
      px: 1.5,
      height: 30,
      alignItems: 'center',
      borderBottom: '1px solid var(--rule)',
      color: 'var(--soft)',
      fontSize: 12,
      fontWeight: 650,
    }}
  >
    <span>Name</span>
    <span>Role</span>
    <span>Layers</span>
    <span>Changed</span>
    <span>Size</span>
  </Box>
);

interface RowProps {
  readonly row: Row;
  readonly index: number;
  readonly top: number;
  readonly largest: number;
  readonly isSelected: boolean;
  readonly isFocus: boolean;
  readonly isCut: boolean;
  readonly isTarget: boolean;
  readonly onClick: (e: MouseEvent) => void;
  readonly onToggle: () => void;
}

function TreeRow({ row, index, top, largest, isSelected, isFocus, isCut, isTarget, onClick, onToggle }: RowProps) {
  const { setNodeRef: setDropRef } = useDroppable({
    id: `into ${row.path}`,
    data: { target: { kind: 'folder', folder: folderOfRow(row), name: `into ${folderOfRow(row)}` } satisfies DropTarget },
    disabled: row.link !== null,
  });
  const isHeld = row.path === '' || row.link !== null || (row.kind === 'folder' && row.isNested);
  const { setNodeRef, listeners } = useDraggable({ id: row.path, disabled: isHeld });
  const isFolder = row.kind === 'folder';
  return (
    <Box
      id={`row-${index}`}
      ref={(el: HTMLElement | null) => {
        setNodeRef(el);
        setDropRef(el);
      }}
      {...listeners}
      role="row"
      aria-rowindex={index + 1}
      aria-level={row.depth + 1}
      aria-selected={isSelected}
      {...(isFolder && row.hasMore ? { 'aria-expanded': row.isOpen } : {})}
      onClick={onClick}
      onDoubleClick={isFolder ? onToggle : undefined}
      sx={{
        position: 'absolute',
        top,
        left: 0,
        right: 0,
        height: ROW,
        px: 1.5,
        boxSizing: 'border-box',
        display: 'grid',
        gridTemplateColumns: COLUMNS,
        alignItems: 'center',
        fontSize: 13,
        cursor: 'default',
        userSelect: 'none',
        opacity: isCut ? 0.55 : 1,
        bgcolor: isTarget ? 'var(--ochre-wash)' : isSelected ? 'var(--spruce-wash)' : undefined,
        boxShadow: isTarget ? 'inset 0 0 0 2px var(--ochre)' : isFocus ? 'inset 0 0 0 1px var(--spruce)' : undefined,
        '&:hover': isSelected || isTarget ? {} : { bgcolor: 'var(--sunk)' },
      }}
    >
      <NameCell row={row} onToggle={onToggle} />
      <Box role="gridcell">
        <RoleMark role={row.role} isOwn={isFolder && row.isPlanned} />
      </Box>
      <Box role="gridcell" sx={{ color: 'var(--soft)' }}>
        {!isFolder && row.thing.usedBy > 0 ? number(row.thing.usedBy) : ''}
      </Box>
      <Box role="gridcell" sx={{ color: 'var(--soft)' }}>
        {isFolder ? '' : dateTime(row.thing.modifiedMs)}
      </Box>
      <Box role="gridcell">{(row.link === null || row.bytes > 0) && <SizeBar bytes={row.bytes} of={largest} isFolder={isFolder} />}</Box>
    </Box>
  );
}

/** Indented by its depth, with what opens and closes a folder. */
function NameCell({ row, onToggle }: Pick<RowProps, 'row' | 'onToggle'>) {
  const isFolder = row.kind === 'folder';
  return (
    <Box role="gridcell" sx={{ display: 'flex', alignItems: 'center', minWidth: 0, gap: '5px', pl: `${row.depth * 18}px` }}>
      <Box
        component="span"
        aria-hidden
        onClick={(e) => {
          if (!isFolder || row.path === '') return;
          e.stopPropagation();
          onToggle();
        }}
        sx={{ width: 18, height: 18, flex: 'none', display: 'inline-flex' }}
      >
        {isFolder && row.hasMore && row.path !== '' && <Icon path={row.isOpen ? mdiChevronDown : mdiChevronRight} sx={{ fontSize: 18 }} />}
      </Box>
      <RowIcon row={row} />
      <Box
        component="span"
        className={isFolder ? undefined : 'mono'}
        sx={{
          overflow: 'hidden',
          textOverflow: 'ellipsis',
          whiteSpace: 'pre',
          fontWeight: isFolder ? 600 : 400,
          textDecoration: row.findings.length ? 'underline wavy var(--ochre)' : undefined,
          textUnderlineOffset: 3,
        }}
      >
        {row.name}
      </Box>
      <Aside row={row} />
    </Box>
  );
}

/** What a row says beside its name. */
function Aside({ row }: { row: Row }) {
  const words: string[] = [];
  if (row.kind === 'folder' && row.link !== null && row.depth === 0) words.push('linked, to look at');
  else if (row.kind === 'folder') {
    if (row.isNested) words.push('a project of its own');
    else if (row.files === 0) words.push(row.isPlanned ? 'planned, empty' : 'empty');
  } else {
    if (row.thing.kind === 'left-behind') words.push('left behind');
    if (row.thing.files.length > 1) words.push(many(row.thing.files.length, 'file'));
  }
  if (row.findings.length) words.push('check name');
  return words.length === 0 ? null : (
    <Box component="span" sx={{ color: 'var(--soft)', fontSize: 12, flex: 'none', whiteSpace: 'nowrap' }}>
      {words.join(' · ')}
    </Box>
  );
}

function SizeBar({ bytes: size, of, isFolder }: { bytes: number; of: number; isFolder: boolean }) {
  const share = of > 0 ? size / of : 0;
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 68px', gap: 1, alignItems: 'center' }}>
      <Box sx={{ height: 8, bgcolor: 'var(--sunk)', borderRadius: '2px', overflow: 'hidden' }}>
        <Box
          sx={{
            height: '100%',
            width: `${share > 0 ? Math.max(2, share * 100) : 0}%`,
            bgcolor: isFolder ? 'var(--spruce)' : 'var(--slate)',
          }}
        />
      </Box>
      <Box component="span" title={`${number(size)} bytes`} sx={{ textAlign: 'right', whiteSpace: 'nowrap' }}>
        {bytes(size)}
      </Box>
    </Box>
  );
}
