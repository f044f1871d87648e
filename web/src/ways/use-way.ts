import { keptList } from '../parts/kept-list.js';
import { WAYS, type Begun, type Way, type WayId } from './ways.js';

/** Where somebody is on a way. */
interface Walk {
  readonly way: WayId;
  readonly step: number;
  readonly key: string | null;
  readonly begun: Begun;
}
const isWalk = (value: unknown): value is Walk => {
  const v = value as Partial<Walk> | null;
  return (
    typeof v === 'object' && v !== null && WAYS.some((w) => w.id === v.way) && typeof v.step === 'number' && typeof v.begun === 'object'
  );
};
/** The way that is walked, in this browser; one that was left can be taken up again. */
const walked = keptList('rootmap.way', isWalk, 1);
const left = keptList('rootmap.way-left', isWalk, 1);
const hidden = keptList('rootmap.ways-hidden', (v): v is true => v === true, 1);

export interface Walking {
  readonly way: Way;
  readonly step: number;
  readonly key: string | null;
  readonly begun: Begun;
  /** So many layers are broken: a project that was just opened is looked at while the way is walked. */
  readonly sawBroken: (broken: number) => void;
  readonly goTo: (step: number, key?: string | null) => void;
  /** It is put aside, and offered again where it was left. */
  readonly leave: () => void;
  readonly finish: () => void;
}

export function useWalking(): Walking | null {
  const walk = walked.use()[0];
  const way = WAYS.find((w) => w.id === walk?.way);
  if (!walk || !way || !way.steps[walk.step]) return null;
  return {
    ...walk,
    way,
    sawBroken: (broken) => walked.set([{ ...walk, begun: { ...walk.begun, broken } }]),
    goTo: (step, key = walk.key) => walked.set([{ ...walk, step, key }]),
    leave: () => {
      left.set([walk]);
      walked.forget();
    },
    finish: () => {
      left.forget();
      walked.forget();
    },
  };
}

export const beginWay = (way: WayId, key: string | null, begun: Begun): void => {
  left.forget();
  walked.set([{ way, step: 0, key, begun }]);
};
/** The way that was left, and how to go on with it. */
export function useLeftWay(): {
  readonly way: WayId;
  readonly resume: () => { readonly step: number; readonly key: string | null };
} | null {
  const walk = left.use()[0];
  if (!walk) return null;
  return {
    way: walk.way,
    resume: () => {
      walked.set([walk]);
      left.forget();
      return walk;
    },
  };
}
export const useWaysHidden = (): boolean => hidden.use().length > 0;
export const hideWays = (): void => hidden.set([true]);
export const showWays = (): void => hidden.forget();
