/** What a note of a project is about: something in it, by its path from the root; or a change of the journal. */
export type NoteTarget =
  { readonly kind: 'path'; readonly path: string } | { readonly kind: 'change'; readonly id: string; readonly title: string };

/** One note that people keep on their project. */
export interface ProjectNote {
  /** `YYYY-MM-DD HH:MM` as the clock of whoever wrote it had it; without a time where none stands there. */
  readonly at: string;
  readonly who: string;
  /** Markdown. */
  readonly text: string;
  readonly about: NoteTarget | null;
}

/** Where the notes of a project stand, from its root. */
export const PROJECT_NOTES = 'project_notes.md';

const HEAD = /^## (\d{4}-\d{2}-\d{2}(?: \d{2}:\d{2})?)(?:, (.*))?$/;
const ABOUT_PATH = /^About: \[[^\]]*\]\(<?([^>)]*)>?\)$/;
const ABOUT_CHANGE = /^About: change ([\w-]+)(?:: (.*))?$/;

/** The notes in their file, the oldest first. What stands before the first heading with a date is none of them. */
export function parseProjectNotes(text: string): ProjectNote[] {
  const notes: { at: string; who: string; lines: string[] }[] = [];
  for (const line of text.replace(/^\ufeff/, '').split(/\r?\n/)) {
    const head = HEAD.exec(line.trimEnd());
    if (head) notes.push({ at: head[1]!, who: head[2]?.trim() ?? '', lines: [] });
    else notes.at(-1)?.lines.push(line.replace(/^\\(#+ )/, '$1'));
  }
  return notes.map(({ at, who, lines }) => {
    const last = lines.findLastIndex((l) => l.trim() !== '');
    const about = last < 0 ? null : targetOf(lines[last]!.trim());
    return { at, who, text: (about ? lines.slice(0, last) : lines).join('\n').trim(), about };
  });
}

function targetOf(line: string): NoteTarget | null {
  const path = ABOUT_PATH.exec(line);
  if (path) return { kind: 'path', path: decoded(path[1]!) };
  const change = ABOUT_CHANGE.exec(line);
  return change ? { kind: 'change', id: change[1]!, title: change[2] ?? '' } : null;
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text; // somebody wrote it by hand
  }
}

/**
 * The file with one more note at its end; all that stands in it stays.
 * @param before null: there is none yet
 * @param title of the project, for the first line of a new file
 */
export function withProjectNote(before: string | null, { at, who, text, about }: ProjectNote, title: string): string {
  const start = before ?? `# Notes on ${oneLine(title)}\n`;
  const gap = start === '' || start.endsWith('\n\n') ? '' : start.endsWith('\n') ? '\n' : '\n\n';
  const body = text.trim().replace(/^(#+ )/gm, '\\$1');
  const head = `## ${at}${who === '' ? '' : `, ${oneLine(who)}`}`;
  return `${start}${gap}${[head, body, ...(about ? [aboutLine(about)] : [])].join('\n\n')}\n`;
}

const oneLine = (text: string): string => text.replace(/\s+/g, ' ').trim();

/** A path is a link that opens from where the file stands; brackets in it are told in percent (CommonMark 0.31, 6.3). */
function aboutLine(about: NoteTarget): string {
  if (about.kind === 'change') return `About: change ${about.id}${about.title === '' ? '' : `: ${oneLine(about.title)}`}`;
  const href = about.path
    .replace(/\p{Surrogate}/gu, '\ufffd') // half a letter has no place in an address
    .split('/')
    .map(encodeURIComponent)
    .join('/')
    .replaceAll('(', '%28')
    .replaceAll(')', '%29');
  return `About: [${about.path.replace(/[[\]]/g, '')}](${href})`;
}
