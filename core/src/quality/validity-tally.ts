import { checked, manyOf, type CheckExample, type QualityCheck } from './quality-check.js';

export interface Fault {
  readonly why: string;
  readonly at: readonly [number, number] | null;
}

const MOST_EXAMPLES = 20;

/** Shapes that break the rules of simple features, by kind. */
export class ValidityTally {
  private readonly first: CheckExample[] = [];
  private readonly kinds = new Map<string, number>();
  private count = 0;

  /** @param at where the shape begins, for faults that tell no place */
  add(record: number, { why, at }: Fault, begins: readonly [number, number] | null): void {
    this.count++;
    if (this.first.length < MOST_EXAMPLES) this.first.push({ record, at: at ?? begins, what: why });
    this.kinds.set(why, (this.kinds.get(why) ?? 0) + 1);
  }

  check(records: number): QualityCheck {
    const kinds = [...this.kinds].sort((a, b) => b[1] - a[1]).map(([why, n]) => `${why} (${n})`);
    const detail =
      this.count === 0
        ? 'Every shape keeps the rules of simple features.'
        : `${manyOf(this.count, 'shape')} ${this.count === 1 ? 'breaks' : 'break'} the rules of simple features: ${kinds.join('; ')}.`;
    return checked('invalid-shapes', this.count === 0 ? 'pass' : 'fail', [this.count, records], detail, this.first);
  }
}
