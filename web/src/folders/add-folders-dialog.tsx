import { useMemo, useState } from 'react';
import type { EditRequest } from '@rootmap/core/contract';
import { usePlans } from '../api/queries.js';
import { firstOf, PlanChoice, type PlanDraft } from '../plans/plan-choice.js';
import { draftFault, draftOf, foldersOf } from '../plans/plan-editor.js';
import { EditDialog } from './edit-dialog.js';
import { useSettled } from './use-edit.js';

/** Folders of a plan, or one's own, are added to what is there. `within`: the folder that a single new one goes into. */
export function AddFoldersDialog({ projectKey, within, onClose }: { projectKey: string; within: string | null; onClose: () => void }) {
  const plans = usePlans();
  const [plan, setPlan] = useState<PlanDraft | null>(
    within === null
      ? null
      : { planId: '', draft: draftOf([{ path: within === '' ? 'new_folder' : `${within}/new_folder`, role: 'working', note: '' }]) },
  );
  const draft = useMemo(() => plan ?? (plans.data ? firstOf(plans.data) : null), [plan, plans.data]);
  const settled = useSettled(draft);
  const folders = settled && draftFault(settled.draft) === null ? foldersOf(settled.draft) : [];
  const edit: EditRequest | null = folders.length ? { kind: 'folders', folders } : null;
  return (
    <EditDialog
      projectKey={projectKey}
      title={within === null ? 'Add folders from a plan' : 'Make a folder'}
      edit={edit}
      button={`Make ${folders.length === 1 ? 'the folder' : `${folders.length} folders`}`}
      isSettling={settled !== draft}
      onClose={onClose}
    >
      <PlanChoice value={draft} onChange={setPlan} />
    </EditDialog>
  );
}
