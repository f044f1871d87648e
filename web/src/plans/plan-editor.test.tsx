/** @jest-environment jsdom */
import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { useEffect, useState } from 'react';
import { BUILT_IN_PLANS } from '@rootmap/core';
import { draftFault, draftOf, foldersOf, PlanEditor, type DraftFolder } from './plan-editor';

afterEach(cleanup);
const shown: { last: readonly DraftFolder[] } = { last: [] };
function Editor({ folders }: { folders: DraftFolder[] }) {
  const [draft, setDraft] = useState<readonly DraftFolder[]>(folders);
  useEffect(() => void (shown.last = draft));
  return <PlanEditor draft={draft} onChange={setDraft} />;
}

test('every built-in plan can be used as it is', () => {
  for (const plan of BUILT_IN_PLANS) {
    expect(draftFault(draftOf(plan.folders))).toBeNull();
    expect(foldersOf(draftOf(plan.folders))).toEqual(plan.folders);
  }
});

describe('the editor', () => {
  test('a tick trims a folder and keeps it in sight; one can be added, renamed and taken out', () => {
    render(<Editor folders={draftOf(BUILT_IN_PLANS[0]!.folders)} />);
    fireEvent.click(screen.getByRole('checkbox', { name: 'Make exports' }));
    expect(foldersOf(shown.last).map((f) => f.path)).not.toContain('exports');
    expect(screen.getByRole('checkbox', { name: 'Make exports' })).not.toBeNull();
    fireEvent.click(screen.getByRole('button', { name: 'Another folder' }));
    fireEvent.change(screen.getByRole('textbox', { name: 'Folder 8' }), { target: { value: 'field/2026' } });
    expect(foldersOf(shown.last).at(-1)).toEqual({ path: 'field/2026', role: 'other', note: '' });
    fireEvent.click(screen.getByRole('button', { name: 'Take maps out of the plan' }));
    expect(shown.last.map((f) => f.path)).not.toContain('maps');
  });
  test('what cannot be made is told at once', () => {
    render(<Editor folders={draftOf([{ path: '../above', role: 'other', note: '' }])} />);
    expect(screen.getByRole('alert').textContent).toContain('it leads out of the project');
    expect(
      draftFault(
        draftOf([
          { path: 'a', role: 'other', note: '' },
          { path: 'A', role: 'other', note: '' },
        ]),
      ),
    ).toContain('twice');
  });
});
