import { useMutation } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, type RefObject } from 'react';
import type { MapDraft } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { tellDone } from '../../journal/tell-done.js';
import { many } from '../../parts/format.js';
import { useStartedJob } from '../../parts/job-actions.js';
import { useUrlState } from '../../parts/use-url-state.js';
import type { Sight } from './map-canvas.js';
import type { MapScene } from './map-scene.js';
import type { MapEditor } from './use-map-editor.js';

const THUMBNAIL = { width: 320, height: 200, ground: '#e6ecf4' } as const;
const PNG_ADDRESS = 'data:image/png;base64,';

/** The draft with what is on the screen now as its view. */
const withSight = (draft: MapDraft, sight: Sight | null): MapDraft =>
  sight ? { ...draft, view: { center: [sight.center[0], sight.center[1]], scale: Math.round(sight.scale) } } : draft;

const known = (layers: number): string => `${many(layers, 'layer')} of it ${layers === 1 ? 'is known by its' : 'are known by their'} data`;

/** Saves the draft to its file, with a small picture of it. */
export function useSaveMap(key: string, path: string, editor: MapEditor, sight: Sight | null, scene: RefObject<MapScene | null>) {
  const { draft, changes } = editor;
  const [, set] = useUrlState();
  const save = useMutation({
    mutationFn: (as: string | null) => {
      const canvas = scene.current?.snapshot(THUMBNAIL.width, THUMBNAIL.height, THUMBNAIL.ground);
      const thumbnail = canvas ? canvas.toDataURL('image/png').slice(PNG_ADDRESS.length) : null;
      return api.saveMap(key, { path, editor: editor.editor, base: editor.base, draft: withSight(draft, sight), thumbnail, as });
    },
    // Nothing was begun: the file is looked at again, and its changes are followed as before.
    onError: () => {
      editor.setSaving(false);
      editor.look();
    },
  });
  const { job, isRunning } = useStartedJob(save.data);
  const saved = useRef(draft);
  const start = useCallback((): void => {
    if (changes === 0) return;
    saved.current = draft;
    editor.setSaving(true);
    save.mutate(null);
  }, [changes, editor, draft, save]);
  /** Into a new file beside it, which is opened then; this one stays as it is on disk. */
  const startAs = (name: string): void => {
    editor.setSaving(true);
    save.mutate(name);
  };
  useEffect(() => {
    if (!job || job.state === 'running') return;
    editor.setSaving(false);
    if (job.state !== 'done') return editor.look(); // it may have been saved by somebody else
    const { base, changeId, remembered } = job.result;
    if (job.result.path === path) editor.saved(saved.current, base);
    else editor.drop(); // what was changed is in the new file
    tellDone(`Saved. ${known(remembered)}.`, changeId === null ? null : { id: changeId, canUndo: true });
  }, [job?.id, job?.state]); // eslint-disable-line react-hooks/exhaustive-deps -- once for each state of each job
  /** A new file that is opened next. */
  const opening = job?.state === 'done' && job.result.path !== path ? job.result.path : null;
  useEffect(() => {
    if (opening !== null && changes === 0) set({ map: opening, layer: null }, { step: true });
  }, [opening, changes]); // eslint-disable-line react-hooks/exhaustive-deps -- once the page holds nothing that is unsaved
  return {
    start,
    startAs,
    isSaving: isRunning || save.isPending,
    item: job?.item ?? '',
    /** Why it could not be saved; null: nothing is the matter. */
    failure: job?.state === 'failed' ? job.message : null,
    error: save.error,
  };
}
