import type { ProjectSummary } from '@rootmap/core/contract';

/** The next thing to do in a project, worst consequence first; null: it cannot be opened now. */
export function nextStep(p: ProjectSummary): { readonly label: string; readonly to: string } | null {
  if (!p.present) return null;
  if (!p.totals) return { label: 'Look at it', to: 'overview' };
  const broken = p.totals.adrift + p.totals.different;
  if (broken > 0) return { label: `Mend ${broken} ${broken === 1 ? 'layer' : 'layers'}`, to: 'mend' };
  if (p.totals.incomplete + p.totals.unreadable > 0) return { label: 'See what is damaged', to: 'mend' };
  return { label: 'Send it', to: 'send' };
}
