import { prefixesOf, ProblemError, type Target, type Trail, type Verdict } from '@rootmap/core';
import type { MendChoice } from '@rootmap/core/contract';
import { pathIn, type ChosenData, type MendWork } from './plan-mend.js';

/** The moves that a choice accepts: of its shift where it follows one, else of its own. */
export function acceptedMoves(work: MendWork, choices: readonly ChosenData[]): { readonly from: Trail; readonly to: Trail }[] {
  const layers = new Map(work.broken.map((b, i) => [b.broken.key, { broken: b.broken, proposal: work.proposals[i]! }]));
  const moves = choices.flatMap(({ key, target }) => {
    const { broken, proposal } = layers.get(key)!;
    const shift = proposal.shift !== null && proposal.candidates[0]?.target === target ? work.shifts[proposal.shift]! : null;
    if (shift && shift.kind === 'folder') return [{ from: shift.from, to: shift.to }];
    if (shift || !broken.recorded || target.table !== broken.table) return [];
    return [prefixesOf(broken.recorded, { space: target.location.place, segments: target.location.segments })];
  });
  return [...new Map(moves.map((m) => [JSON.stringify(m), m])).values()];
}

/** The best candidates of all layers whose verdict is at least that. */
export function choicesOf(work: MendWork, least: 'certain' | 'likely'): ChosenData[] {
  const verdicts = new Map(work.view.layers.map((l) => [l.key, l.verdict]));
  return work.proposals.flatMap((p) => {
    const verdict = verdicts.get(p.layer);
    const enough = verdict === 'certain' || (least === 'likely' && verdict === 'likely');
    return enough && p.candidates[0] ? [{ key: p.layer, target: p.candidates[0].target }] : [];
  });
}

/** The styles whose verdict is at least that: where each is written to. */
export function stylesOf(work: MendWork, least: 'certain' | 'likely'): Map<string, string> {
  const enough = (v: Verdict): boolean => v === 'certain' || (least === 'likely' && v === 'likely');
  return new Map(work.view.styles.flatMap((s) => (s.after !== null && enough(s.verdict) ? [[s.key, s.after]] : [])));
}

/** Choices by path of the dataset, as they come from the page. Throws where one is no longer there, or its layer was changed meanwhile. */
export function choose(work: MendWork, wanted: readonly MendChoice[]): ChosenData[] {
  const targets = new Map<string, Target>(work.reached.map((r) => [pathIn(r.target, work.scope), r.target]));
  for (const p of work.proposals) for (const c of p.candidates) targets.set(pathIn(c.target, work.scope), c.target);
  const layers = new Map(work.view.layers.map((l) => [l.key, l]));
  return wanted.map(({ key, path, before }) => {
    const target = targets.get(path);
    if (!target) throw new ProblemError({ code: 'missing', path });
    if (!work.broken.some((b) => b.broken.key === key))
      throw new ProblemError({ code: 'not-found', what: 'broken layer', id: key.split('\n').pop()! });
    const layer = layers.get(key)!;
    if (before !== undefined && before !== layer.before.href) throw new ProblemError({ code: 'changed-meanwhile', path: layer.map });
    return { key, target };
  });
}
