import type { Fingerprint } from '../dataset/fingerprint.js';
import { isLeftCopy, reasonsFor } from './standing.js';
import type { TargetIndex } from './target-index.js';
import type { BrokenLayer, Candidate, Choice, Standing, Verdict } from './types.js';

/** A rival this close to the best makes it doubtful. */
export const NEAR = 10;

/** How a candidate's content stands to what the layer remembers. */
type Content = 'proved' | 'equal' | 'unknown' | 'edited' | 'other';
export const isSame = (content: Content): boolean => content === 'proved' || content === 'equal';

export function contentOf(layer: BrokenLayer, c: Candidate): Content {
  const a = layer.fingerprint;
  const b = c.target.fingerprint;
  if (c.kinds.has('hash')) return 'proved';
  if (!a) return 'unknown';
  const isOther = contradicts(a, b);
  if (a.hash !== null && b.hash !== null && a.format === b.format && a.hash !== b.hash) return isOther ? 'other' : 'edited';
  if (isOther) return 'other';
  return c.kinds.has('content') ? 'equal' : 'unknown';
}

/** Remembered numbers that the candidate does not have: another edition of the data, perhaps. */
function contradicts(a: Fingerprint, b: Fingerprint): boolean {
  const differs = (x: number | null, y: number | null): boolean => x !== null && y !== null && x !== y;
  return differs(a.count, b.count) || differs(a.vertices, b.vertices) || (a.grid !== null && b.grid !== null && a.grid !== b.grid);
}

/** In another format equal shapes say nothing of the values in the table, so that all of name, content and agreement are needed. */
const kindsNeeded = (layer: BrokenLayer, { target }: Candidate): number =>
  layer.fingerprint !== null && layer.fingerprint.format !== target.fingerprint.format ? 3 : 2;

/** Where work is done against where copies are left, or in the project against elsewhere. */
const outranks = (a: Standing | null, b: Standing | null): boolean =>
  a !== null && b !== null && ((a.isForWork && !b.isForWork) || (a.isForWork === b.isForWork && a.isInProject && !b.isInProject));

/**
 * Certain only by what was seen, by proof, or by two kinds of evidence, where nothing else comes near. A rival that is known
 * to be other data is none; one that may be the same data in another format is one, even against a proof. What is perhaps a
 * copy that was left behind is never certain by its content.
 */
export function verdictOf(layer: BrokenLayer, best: Candidate, rivals: readonly Candidate[], index: TargetIndex): Verdict {
  const content = contentOf(layer, best);
  const isSeen = best.kinds.has('seen') && !layer.isHere;
  if (isSeen && !rivals.some((r) => r.kinds.has('seen'))) return content === 'edited' || content === 'other' ? 'likely' : 'certain';
  const verdict = verdictByContent(layer, best, rivals, index);
  return verdict === 'certain' && isLeftCopy(layer, best.target) ? 'likely' : verdict;
}

function verdictByContent(layer: BrokenLayer, best: Candidate, rivals: readonly Candidate[], index: TargetIndex): Verdict {
  if (layer.isHere) return layer.isHere === 'absent' ? 'none' : contentOf(layer, best) === 'proved' ? 'likely' : 'possible';
  const content = contentOf(layer, best);
  const states = rivals.map((r) => contentOf(layer, r));
  if (content === 'proved') {
    const isOnly = index.hashTwins(layer.fingerprint!.hash!) === 1 && !states.includes('equal');
    if (isOnly) return 'certain';
    const equal = rivals.filter((_, i) => isSame(states[i]!));
    return equal.length > 0 && equal.every((r) => outranks(best.standing, r.standing)) ? 'likely' : 'possible';
  }
  const isNear = rivals.some(
    (r, i) => r.score >= best.score - NEAR && !(content === 'equal' && states[i] !== 'equal' && states[i] !== 'unknown'),
  );
  if (content === 'other') return isNear || !best.kinds.has('agreement') ? 'possible' : 'likely';
  if (content === 'edited') return isNear ? 'possible' : 'likely';
  if (isNear || best.kinds.size === 0) return 'possible';
  return best.kinds.size >= kindsNeeded(layer, best) && !states.includes('equal') ? 'certain' : 'likely';
}

/** Of candidates that say the same: how many, and what speaks for the first. */
export function choiceOf(layer: BrokenLayer, best: Candidate, rivals: readonly Candidate[]): Choice | null {
  if (!isSame(contentOf(layer, best))) return null;
  const equal = rivals.filter((r) => isSame(contentOf(layer, r)));
  if (equal.length === 0) return null;
  const [mine, theirs] = [best.standing, equal[0]!.standing];
  if (!mine || !theirs) return { equal: equal.length + 1, reasons: [], against: [] };
  return { equal: equal.length + 1, reasons: reasonsFor(mine, theirs), against: reasonsFor(theirs, mine) };
}

export function toldOf({ equal, reasons, against }: Choice): string {
  const places = `Data of equal content stands in ${equal} places`;
  const other = against.length > 0 ? ` For another speaks where it stands: ${against.join('; ')}.` : '';
  if (reasons.length > 0) return `${places}; this is the likelier one: ${reasons.join('; ')}.${other}`;
  return other
    ? `${places}. This one fits best by what else is known of it.${other}`
    : `${places}, and their places do not tell which was meant, either.`;
}
