import { csvLines } from '../format/csv/write-csv.js';
import type { StatedFact } from '../origin/origin.js';
import { PASSAGE_WORD } from '../origin/passage.js';
import { escapeXml } from '../xml/xml-text.js';
import { CHECKS, ELEMENTS, type CheckResult, type Element, type QualityCheck } from './quality-check.js';
import type { Fitness, Review, SheetState } from './quality-sheet.js';

/** A sheet with the name of its dataset, to be handed to people. */
export interface ReportedSheet {
  readonly name: string;
  readonly state: SheetState;
  /** When it was computed, RFC 3339; null: never. */
  readonly at: string | null;
  readonly checks: readonly QualityCheck[];
  readonly review: Review | null;
  /** What its publisher states. */
  readonly stated: readonly StatedFact[];
}

/** `pdf` is made where fonts are; the others are text. */
export const REPORT_FORMATS = ['html', 'csv', 'json', 'pdf'] as const;
export type ReportFormat = (typeof REPORT_FORMATS)[number];
export type TextReport = Exclude<ReportFormat, 'pdf'>;

export const RESULT_WORD: Readonly<Record<CheckResult, string>> = { pass: 'fine', note: 'to look at', fail: 'fault' };
export const STATE_SENTENCE: Readonly<Record<SheetState, string>> = {
  none: 'nobody looked at it',
  computed: 'not reviewed',
  reviewed: 'reviewed',
  'out-of-date': 'out of date: the data has changed since',
};
export const FITNESS_WORD: Readonly<Record<Fitness, string>> = { fit: 'good enough', limited: 'with limits', unfit: 'not good enough' };

/** Sheets as a page that stands alone, as a table of text (RFC 4180), or as data. @param title of the project, or the dataset */
export function reportOf(sheets: readonly ReportedSheet[], format: TextReport, title: string): string {
  if (format === 'json') return `${JSON.stringify({ title, sheets }, null, 2)}\n`;
  return format === 'csv' ? asTable(sheets) : asPage(sheets, title);
}

const asTable = (sheets: readonly ReportedSheet[]): string =>
  csvLines([
    ['dataset', 'sheet', 'element', 'check', 'result', 'count', 'of', 'detail'],
    ...sheets.flatMap((s) => [
      ...s.checks.map((c) => [s.name, s.state, c.element, c.code, c.result, String(c.count), String(c.of), c.detail]),
      ...s.stated.map((f) => [s.name, s.state, 'stated', f.about, '', '', '', f.words]),
      ...reviewRows(s),
    ]),
  ]);

const reviewRows = ({ name, state, review }: ReportedSheet): string[][] =>
  review
    ? Object.entries(review.elements).map(([element, said]) => [
        name,
        state,
        element,
        'review',
        said.fitness,
        '',
        '',
        `${review.name}, ${review.date}${said.words === '' ? '' : `: ${said.words}`}`,
      ])
    : [];

const STYLE = `body{font:15px/1.45 system-ui,sans-serif;margin:2rem auto;max-width:60rem;padding:0 1rem;color:#1d2a28}
h2{margin:2rem 0 .3rem;font-size:1.15rem;overflow-wrap:anywhere;break-after:avoid}table{border-collapse:collapse;width:100%;margin:.5rem 0}
th,td{text-align:left;vertical-align:top;padding:.25rem .6rem .25rem 0;border-bottom:1px solid #ddd8c4}tr{break-inside:avoid}
.fail{font-weight:700}small{color:#555}`;

function asPage(sheets: readonly ReportedSheet[], title: string): string {
  const e = escapeXml;
  const body = sheets.map(
    (s) =>
      `<h2>${e(s.name)}</h2>\n<p>${e(STATE_SENTENCE[s.state])}${s.at === null ? '' : `; computed ${e(s.at.slice(0, 10))}`}</p>\n${statedPart(s)}${reviewPart(s)}${checksPart(s)}`,
  );
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Quality: ${e(title)}</title>
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'"><style>${STYLE}</style></head>
<body><h1>Quality: ${e(title)}</h1>
<p>${sheets.length} ${sheets.length === 1 ? 'dataset' : 'datasets'}, by the elements of ISO 19157.</p>
${body.join('\n')}
</body></html>
`;
}

function statedPart({ stated }: ReportedSheet): string {
  if (stated.length === 0) return '';
  const e = escapeXml;
  const row = (f: StatedFact): string =>
    `<tr><td>${e(PASSAGE_WORD[f.about])}</td><td>${e(f.words)}</td><td>${f.note === null ? '' : `<small>${e(f.note)}</small>`}</td></tr>`;
  return `<p>Stated by its publisher:</p>\n<table>${stated.map(row).join('')}</table>\n`;
}

function reviewPart({ review }: ReportedSheet): string {
  if (!review) return '';
  const e = escapeXml;
  const said = Object.entries(review.elements).map(
    ([element, s]) => `<tr><td>${e(ELEMENTS[element as Element])}</td><td>${FITNESS_WORD[s.fitness]}</td><td>${e(s.words)}</td></tr>`,
  );
  const facts = [
    ...(review.fitFor === '' ? [] : [`Fit for: ${e(review.fitFor)}`]),
    ...(review.accuracy === '' ? [] : [`Stated accuracy: ${e(review.accuracy)}`]),
  ];
  return `<p>Reviewed by ${e(review.name)}, ${e(review.date)}${facts.length === 0 ? '' : `. ${facts.join('. ')}`}</p>\n${said.length === 0 ? '' : `<table>${said.join('')}</table>\n`}`;
}

function checksPart({ checks }: ReportedSheet): string {
  if (checks.length === 0) return '';
  const e = escapeXml;
  const row = (c: QualityCheck): string =>
    `<tr><td>${e(ELEMENTS[c.element])}</td><td>${e(CHECKS[c.code].title)}</td><td class="${c.result}">${RESULT_WORD[c.result]}</td><td>${e(c.detail)}</td></tr>`;
  return `<table><thead><tr><th>Element</th><th>Check</th><th>Result</th><th>What was found</th></tr></thead><tbody>${checks.map(row).join('')}</tbody></table>`;
}
