import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { parseProjectNotes, withProjectNote, type ProjectNote } from './project-notes.js';

const note = (over: Partial<ProjectNote> = {}): ProjectNote => ({
  at: '2026-11-30 14:05',
  who: 'ana',
  text: 'Asked for the beds of 2025.',
  about: null,
  ...over,
});

describe('notes of a project', () => {
  test('a new file has the title, and each note its head', () => {
    const one = withProjectNote(null, note({ about: { kind: 'path', path: 'received/sea beds (2025).shp' } }), 'Moorings');
    expect(one).toBe(
      '# Notes on Moorings\n\n## 2026-11-30 14:05, ana\n\nAsked for the beds of 2025.\n\n' +
        'About: [received/sea beds (2025).shp](received/sea%20beds%20%282025%29.shp)\n',
    );
    expect(parseProjectNotes(one)).toEqual([note({ about: { kind: 'path', path: 'received/sea beds (2025).shp' } })]);
  });

  test('half a letter in a path does no harm', () => {
    const file = withProjectNote(null, note({ about: { kind: 'path', path: 'a\ud800.shp' } }), 't');
    expect(parseProjectNotes(file)[0]!.about).toEqual({ kind: 'path', path: 'a\ufffd.shp' });
  });

  test('what people wrote by hand stays to the letter, and is read as far as it is a note', () => {
    const hand =
      '\ufeffOurs\r\n\r\n## To do\r\n- buoys\r\n\r\n## 2025-03-01\r\nNo time, no name\r\n## 2025-03-02 09:00, bo\r\nText\r\n\r\nAbout: change 0b5c: Move beds\r\n';
    const more = withProjectNote(hand, note(), 'x');
    expect(more.startsWith(hand)).toBe(true);
    expect(parseProjectNotes(more)).toEqual([
      { at: '2025-03-01', who: '', text: 'No time, no name', about: null },
      { at: '2025-03-02 09:00', who: 'bo', text: 'Text', about: { kind: 'change', id: '0b5c', title: 'Move beds' } },
      note(),
    ]);
    expect(parseProjectNotes('')).toEqual([]);
  });

  test('any text comes back, headings in it too', () => {
    const line = fc.oneof(
      fc.constantFrom('## 2026-01-01 10:00, x', '# a', '', 'About nothing', '- [ ] b'),
      fc.stringMatching(/^[\w ,.#()[\]]{0,30}$/),
    );
    fc.assert(
      fc.property(
        fc.array(line, { minLength: 1, maxLength: 6 }),
        fc.option(fc.stringMatching(/^[\w .()%-]{1,20}(\/[\w .()%-]{1,10})?$/)),
        (lines, path) => {
          const text = lines.join('\n').trim();
          const written = note({ text, about: path === null ? null : { kind: 'path', path } });
          const file = withProjectNote(withProjectNote(null, note(), 't'), written, 't');
          expect(parseProjectNotes(file)).toEqual([note(), written]);
        },
      ),
      { seed: 9, numRuns: 500 },
    );
  });
});
