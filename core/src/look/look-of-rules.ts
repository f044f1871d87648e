import type { Condition } from '../filter/expression.js';
import { parseFilter } from '../filter/parse-filter.js';
import type { KeyValue, LayerSymbol, LookRule, VectorLook } from './look.js';

type Entry = Extract<VectorLook, { kind: 'by-value' }>['entries'][number];

/** The simplest look that draws what the rules draw: one look, by value, by class; else the rules as they are. */
export function lookOfRules(rules: readonly LookRule[]): VectorLook {
  if (rules.some((r) => r.minScale !== null || r.maxScale !== null)) return { kind: 'rules', rules };
  const [first] = rules;
  if (rules.length === 1 && first!.filter === null) return { kind: 'one', symbol: first!.symbol };
  return byValue(rules) ?? byClass(rules) ?? { kind: 'rules', rules };
}

const conditionOf = (r: LookRule): Condition | null => {
  const parsed = r.filter === null ? null : parseFilter(r.filter);
  return parsed?.ok ? parsed.condition : null;
};

function valueOf(c: Condition | null): { field: string; value: KeyValue } | null {
  if (c?.op === 'null' && 'field' in c.value) return { field: c.value.field, value: null };
  if (c?.op === '=' && 'field' in c.left && 'literal' in c.right) return { field: c.left.field, value: c.right.literal };
  return null;
}

function byValue(rules: readonly LookRule[]): VectorLook | null {
  const last = rules.at(-1)!;
  const complement = rules.length > 1 ? complementOf(conditionOf(last)) : null;
  const hasOther = last.isElse || complement !== null;
  const keyed = hasOther ? rules.slice(0, -1) : rules;
  const entries: Entry[] = [];
  let field: string | null = null;
  for (const r of keyed) {
    const key = valueOf(conditionOf(r));
    if (!key || (field !== null && key.field !== field)) return null;
    field = key.field;
    entries.push({ title: r.title, value: key.value, symbol: r.symbol });
  }
  if (field === null || new Set(entries.map((e) => e.value)).size < entries.length) return null;
  if (complement && !sameValues(complement, field, entries)) return null;
  return { kind: 'by-value', field, entries, other: hasOther ? last.symbol : null };
}

/** `NOT (f = 'a' OR f = 'b') OR f IS NULL`, as it is written for programs that know no else. */
function complementOf(c: Condition | null): { field: string; values: readonly KeyValue[] } | null {
  const negated = c?.op === 'or' ? c.parts.find((p) => p.op === 'not') : c?.op === 'not' ? c : undefined;
  if (negated?.op !== 'not') return null;
  const parts = negated.part.op === 'or' ? negated.part.parts : [negated.part];
  const keys = parts.map(valueOf);
  const [first] = keys;
  return first && keys.every((k) => k?.field === first.field) ? { field: first.field, values: keys.map((k) => k!.value) } : null;
}

const sameValues = (c: { field: string; values: readonly KeyValue[] }, field: string, entries: readonly Entry[]): boolean =>
  c.field === field && c.values.length === entries.length && entries.every((e) => c.values.includes(e.value));

function byClass(rules: readonly LookRule[]): VectorLook | null {
  const ranges = rules.map((r) => rangeOf(conditionOf(r)));
  const [first] = ranges;
  if (!first || ranges.some((r, i) => !r || r.field !== first.field || (i > 0 && r.low !== ranges[i - 1]!.high))) return null;
  return {
    kind: 'by-class',
    field: first.field,
    method: 'given',
    breaks: [first.low, ...ranges.map((r) => r!.high)],
    entries: rules.map((r): { title: string; symbol: LayerSymbol } => ({ title: r.title, symbol: r.symbol })),
  };
}

function rangeOf(c: Condition | null): { field: string; low: number; high: number } | null {
  if (c?.op === 'between' && 'field' in c.value && isNumber(c.low) && isNumber(c.high))
    return { field: c.value.field, low: c.low.literal, high: c.high.literal };
  if (c?.op !== 'and' || c.parts.length !== 2) return null;
  const [a, b] = c.parts as [Condition, Condition];
  if (a.op !== '>=' || (b.op !== '<' && b.op !== '<=')) return null;
  if (!('field' in a.left) || !('field' in b.left) || a.left.field !== b.left.field) return null;
  return isNumber(a.right) && isNumber(b.right) ? { field: a.left.field, low: a.right.literal, high: b.right.literal } : null;
}

const isNumber = (o: object): o is { literal: number } => 'literal' in o && typeof o.literal === 'number';
