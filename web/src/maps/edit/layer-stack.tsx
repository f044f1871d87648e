import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { Box } from '@mui/material';
import { LayerRow, type RowActs, type StackRow } from './layer-row.js';

interface Props extends RowActs {
  readonly rows: readonly StackRow[];
  readonly selected: string | null;
  readonly onOrder: (ids: readonly string[]) => void;
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
              <LayerRow
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
