import { licenceWithin } from '../origin/licences.js';
import { PASSAGE_KINDS, type Passage, type PassageKind } from '../origin/passage.js';
import { noteText, type Note } from './note.js';

const UNIT = String.raw`(?:international |us |u\.s\. )?(?:survey )?(?:feet|foot|ft|met(?:re|er)s?|fathoms?|kilomet(?:re|er)s?|(?:decimal )?degrees?)`;
const NUMBER_OF_SCALE = String.raw`1\s?:\s?\d{1,3}(?:[ ,.'’\u00a0]?\d{3})+|1\s?:\s?\d{3,}`;

/** Words by which a sentence tells something. They find what is likely meant: what they find is shown as a guess (no source). */
const SIGNS: Readonly<Record<PassageKind, RegExp>> = {
  units: new RegExp(
    String.raw`\bunits?\b[^.\n]{0,60}\b${UNIT}\b|\b(?:heights?|depths?|elevations?|soundings?|coordinates|distances|contours?)\b[^.\n]{0,60}\bin ${UNIT}\b|\b${UNIT} (?:above|below)\b`,
    'i',
  ),
  crs: /\bEPSG\s?:{0,2}\s?\d{4,5}\b|\b(?:horizontal |vertical |geodetic )?datum\b|\b(?:WGS|NAD|ETRS|ED|OSGB|GDA|NZGD|RGF|SIRGAS)\s?-?\d{2,4}\b|\bUTM\b|\bcoordinate (?:reference )?system\b|\bspatial reference\b|\bmap projection\b/i,
  scale: new RegExp(
    String.raw`${NUMBER_OF_SCALE}|\bscale of \d|\b(?:resolution|pixel size|cell size|grid spacing)\b[^.\n]{0,30}\d|\d ?(?:m|metres?|meters?)[ -](?:resolution|pixels?|cells?|grid)\b`,
    'i',
  ),
  date: /\b(?:survey(?:ed)?|published|publication|edition|current (?:as of|to)|as of|updated?|captured|collected|flown|version)\b[^.\n]{0,40}\b(?:19|20)\d{2}\b|\b(?:19|20)\d{2}-\d{2}-\d{2}\b/i,
  limits:
    /\bnot (?:be used|to be used|suitable|intended|for navigation|guarantee\w*|responsible|liable)\b|\bliab(?:le|ility)\b|\bwarrant(?:y|ies|s)?\b|\bdisclaim\w*\b|\bno responsibility\b|\bat (?:your|the user'?s) own risk\b|\bas[- ]is\b|\bfor (?:planning|illustrative|reference) (?:purposes )?only\b/i,
  licence: /\blicen[cs]e[ds]?\b|\bpublic domain\b|\bcopyright\b|©|\bCC[- ](?:BY|0)\b/i,
};

const LONGEST_PASSAGE = 600;
const MOST_OF_A_KIND = 5;

/** Sentences of a note that look as if they told something of the data, in the order of the text: a guess, for somebody to judge. */
export function likelyPassages(note: Pick<Note, 'blocks'>): Passage[] {
  const found: Passage[] = [];
  const count = new Map<PassageKind, number>();
  let from = 0;
  for (const block of note.blocks) {
    if (block.kind !== 'page' && block.kind !== 'heading')
      for (const { at, words } of sentences(block.text))
        for (const about of PASSAGE_KINDS) {
          const before = count.get(about) ?? 0;
          if (before >= MOST_OF_A_KIND || !(SIGNS[about].test(words) || (about === 'licence' && licenceWithin(words)))) continue;
          count.set(about, before + 1);
          found.push({ about, at: from + at, words: words.slice(0, LONGEST_PASSAGE) });
        }
    from += block.text.length + 1;
  }
  return found;
}

/** Sentences by the rules of the Unicode Standard (annex 29); in lists of members (`Units: feet`) a line is one. */
export function sentences(text: string): { readonly at: number; readonly words: string }[] {
  const out: { at: number; words: string }[] = [];
  let from = 0;
  for (const part of text.split(MEMBER_LINES)) {
    for (const { segment, index } of SENTENCES.segment(part)) {
      const lead = segment.length - segment.trimStart().length;
      if (segment.trim() !== '') out.push({ at: from + index + lead, words: segment.trim() });
    }
    from += part.length;
  }
  return out;
}
const SENTENCES = new Intl.Segmenter('en', { granularity: 'sentence' });
/** Before a line that begins with a name and a colon, and behind one. */
const MEMBER_LINES = /(?<=\n)(?=[^\n:]{1,40}:\s)|(?<=(?:^|\n)[^\n:]{1,40}:\s[^\n]*\n)/;

/** Where a passage stands in a note as it is now: where it was, elsewhere, or nowhere (null). */
export function placeOfPassage({ at, words }: Pick<Passage, 'at' | 'words'>, note: Pick<Note, 'blocks'>): number | null {
  const text = noteText(note);
  if (text.startsWith(words, at)) return at;
  const other = text.indexOf(words);
  return other < 0 ? null : other;
}
