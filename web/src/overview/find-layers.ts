import type { LayerView, ProjectView } from '@rootmap/core/contract';

/** Layers that have all of the words in their title, their map, what is recorded, or where that leads. */
export function findLayers(project: ProjectView, text: string): readonly LayerView[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return [];
  return project.maps.flatMap((m) =>
    m.layers.filter((l) => {
      const told = [l.title, m.title, l.href, l.shownResolved, l.recordedFolder, l.state].join('\n').toLowerCase();
      return words.every((w) => told.includes(w));
    }),
  );
}
