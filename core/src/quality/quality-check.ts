/** Elements of data quality, as ISO 19157 names them; `metadata` is what ISO 19115-1 asks for beside the data. */
export const ELEMENTS = {
  commission: 'Completeness: what should not be there',
  omission: 'Completeness: what is missing',
  conceptual: 'Logical consistency: the scheme',
  domain: 'Logical consistency: values',
  format: 'Logical consistency: how it is written',
  topological: 'Logical consistency: shapes',
  positional: 'Positional accuracy',
  temporal: 'Temporal quality',
  metadata: 'Metadata',
} as const;
export type Element = keyof typeof ELEMENTS;

/** `fail`: it is wrong, whatever the data is for. `note`: somebody should look at it. */
export type CheckResult = 'pass' | 'note' | 'fail';

/** One place where something was found. */
export interface CheckExample {
  /** Position of the record from 1; null: it is about none. */
  readonly record: number | null;
  /** x and y in the dataset's CRS; null: it has no place. */
  readonly at: readonly [number, number] | null;
  readonly what: string;
}

/** What one check found in one dataset. */
export interface QualityCheck {
  readonly code: CheckCode;
  readonly element: Element;
  readonly result: CheckResult;
  /** How many things were found that are not as they should be. */
  readonly count: number;
  /** Of how many that were looked at. */
  readonly of: number;
  /** A sentence. */
  readonly detail: string;
  readonly examples: readonly CheckExample[];
}

/** Every check there is: what it is called, its element, and what can be done where it finds something. */
export const CHECKS = {
  records: { title: 'Records', element: 'omission', fix: 'Look whether all of it came, or ask where it came from.' },
  'empty-shapes': { title: 'Records without a shape', element: 'omission', fix: 'Look whether they have a place, or leave them out.' },
  'same-shape': { title: 'The same shape twice', element: 'commission', fix: 'Keep one of each, or say why there are several.' },
  'same-record': { title: 'The same record twice', element: 'commission', fix: 'Keep one of each.' },
  'same-key': { title: 'A key twice', element: 'conceptual', fix: 'Give each record a key of its own, or choose another field.' },
  'invalid-shapes': { title: 'Invalid shapes', element: 'topological', fix: 'Bring it into a geodatabase with its areas made valid.' },
  gaps: { title: 'Gaps between areas', element: 'topological', fix: 'Look whether they are meant, or lines were drawn twice.' },
  overlaps: { title: 'Areas over each other', element: 'topological', fix: 'Look which of them is meant there.' },
  'line-ends': { title: 'Ends that miss a line', element: 'topological', fix: 'Look whether they were meant to meet.' },
  slivers: { title: 'Slivers', element: 'topological', fix: 'Look whether they come from lines that were drawn twice.' },
  'no-number': { title: 'Coordinates that are no number', element: 'format', fix: 'Ask for it anew where it came from.' },
  'outside-crs': { title: 'Outside the area of its CRS', element: 'positional', fix: 'Look whether the CRS is stated rightly.' },
  crs: { title: 'CRS', element: 'metadata', fix: 'State its CRS.' },
  'project-crs': { title: 'CRS of the project', element: 'conceptual', fix: 'Make a copy of it in the CRS of the project.' },
  'empty-fields': { title: 'Fields without values', element: 'omission', fix: 'Leave them out, or fill them.' },
  'sparse-fields': { title: 'Fields that are mostly empty', element: 'omission', fix: 'Look whether values are missing.' },
  'constant-fields': { title: 'Fields with one value', element: 'domain', fix: 'Look whether the field is needed.' },
  'type-misfit': { title: 'Numbers kept as text', element: 'format', fix: 'Say what the field is before it is brought in.' },
  outliers: { title: 'Values far from all others', element: 'domain', fix: 'Look at them: are they slips, or are they so?' },
  'stray-spaces': { title: 'Spaces around values', element: 'domain', fix: 'Take them away: a filter does not find such values.' },
  encoding: { title: 'Damaged letters', element: 'format', fix: 'Say how its letters are encoded, or ask for it anew.' },
  'outside-area': {
    title: 'Outside the area of interest',
    element: 'commission',
    fix: 'Look whether it belongs to the project, or the area is drawn too small.',
  },
  codes: { title: 'Codes not in the list', element: 'domain', fix: 'Correct them, or add them to the list.' },
  scale: { title: 'Scale that it bears', element: 'positional', fix: 'Use it at this scale or a smaller one.' },
  nodata: { title: 'Pixels without a value', element: 'omission', fix: 'Look whether something is missing.' },
  'constant-bands': { title: 'Bands with one value', element: 'domain', fix: 'Look whether the band was filled.' },
  stripes: {
    title: 'Rows or columns of one value',
    element: 'topological',
    fix: 'Look at them: stripes come from a sensor, or from a copy that broke.',
  },
  metadata: { title: 'What is written down of it', element: 'metadata', fix: 'Write its origin down.' },
  age: { title: 'Age', element: 'temporal', fix: 'Look for a newer edition.' },
  'stated-crs': { title: 'CRS as stated', element: 'conceptual', fix: 'Look which of them is right, and ask its publisher.' },
  'stated-units': {
    title: 'Units as stated',
    element: 'conceptual',
    fix: 'Look which of them is right: lengths and heights depend on it.',
  },
  'stated-scale': { title: 'Scale as stated', element: 'positional', fix: 'Use it at the smaller of both scales.' },
  'stated-date': { title: 'Date as stated', element: 'temporal', fix: 'Look for a newer edition.' },
  unreadable: { title: 'Can be read', element: 'format', fix: 'Ask for it anew where it came from.' },
} as const satisfies Record<string, { readonly title: string; readonly element: Element; readonly fix: string }>;
export type CheckCode = keyof typeof CHECKS;

const MOST_EXAMPLES = 20;

/** A check's outcome; examples beyond the first twenty are counted only. */
export const checked = (
  code: CheckCode,
  result: CheckResult,
  [count, of]: readonly [number, number],
  detail: string,
  examples: readonly CheckExample[] = [],
): QualityCheck => ({ code, element: CHECKS[code].element, result, count, of, detail, examples: examples.slice(0, MOST_EXAMPLES) });

/** The worst of some outcomes; `pass` where there are none. */
export const worstOf = (checks: readonly Pick<QualityCheck, 'result'>[]): CheckResult =>
  checks.some((c) => c.result === 'fail') ? 'fail' : checks.some((c) => c.result === 'note') ? 'note' : 'pass';

export const manyOf = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;
