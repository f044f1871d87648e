import { expect, test } from '@jest/globals';
import { PLAIN_RASTER } from '@rootmap/core';
import type { MapDraft } from '@rootmap/core/contract';
import { openStore } from '../store/open-store.js';
import { TestFolder } from '../../test/test-project.js';
import { DraftRepository } from './draft-repository.js';

test('a draft that was kept before looks of rasters had bands and resampling comes back with them, and with all that it had', async () => {
  const t = new TestFolder();
  const store = await openStore(t.at('data'));
  const drafts = new DraftRepository(store);
  const old = { kind: 'raster', band: 2, stretch: { from: 1, to: 9 }, ramp: null, isStepped: false, nodata: -1 };
  const draft = {
    title: 'Depth',
    layers: [
      { id: 'a', look: old },
      { id: 'b', look: null },
    ],
  } as unknown as MapDraft;
  await drafts.keep('/p', 'maps/depth.owc.json', 'mine', 'somebody', 'base', draft);
  const kept = await drafts.kept('/p', 'maps/depth.owc.json', 'mine');
  expect(kept!.draft.views).toEqual([]);
  expect(kept!.draft.layers.map((l) => l.look)).toEqual([{ ...PLAIN_RASTER, ...old }, null]);
  await store.destroy();
  t.remove();
});
