/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import type { PageNote } from '@rootmap/core';
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { useState } from 'react';
import { NoteFields } from './note-fields.js';

afterEach(cleanup);
let now: readonly PageNote[] = [];
function Held({ onNotes }: { onNotes: (notes: readonly PageNote[]) => void }) {
  const [notes, setNotes] = useState<readonly PageNote[]>([]);
  return (
    <NoteFields
      notes={notes}
      onNotes={(next) => {
        setNotes(next);
        onNotes(next);
      }}
    />
  );
}
const type = (label: string, text: string): void => void fireEvent.change(screen.getByLabelText(label), { target: { value: text } });

test('the first text is there without being asked for; more come one by one, each with its place, and can go', () => {
  render(<Held onNotes={(notes) => (now = notes)} />);
  expect(now).toEqual([]);
  expect(screen.queryByRole('button', { name: 'Another text' })).toBeNull(); // an empty one is there already
  type('Text on the map', 'For the board');
  expect(now).toEqual([{ text: 'For the board', place: 'lower-left' }]);
  fireEvent.click(screen.getByRole('button', { name: 'Another text' }));
  type('Text 2 on the map', 'Draft');
  fireEvent.mouseDown(screen.getByLabelText('Where text 2 stands'));
  fireEvent.click(screen.getByRole('option', { name: 'upper middle' }));
  expect(now[1]).toEqual({ text: 'Draft', place: 'upper-middle' });
  fireEvent.click(screen.getByRole('button', { name: 'Leave out text 2' }));
  expect(now).toEqual([{ text: 'For the board', place: 'lower-left' }]);
});
