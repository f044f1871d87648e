import { useState } from 'react';
import type { RowCondition, RowsRequest } from '@rootmap/core/contract';
import { useSettled } from '../folders/use-edit.js';
import { FIRST_SIGHT, useRows, type Asked, type InSight } from './use-rows.js';

/** Records of a dataset as a person asks for them: words, conditions, an order, and what of them is in sight. */
export function useAskedRows(projectKey: string, of: Pick<Asked, 'dataset' | 'filter'>, seek: number | null = null) {
  const [words, setWords] = useState('');
  const [where, setWhere] = useState<readonly RowCondition[]>([]);
  const [sort, setSort] = useState<RowsRequest['sort']>(null);
  const [sight, setSight] = useState<InSight>(FIRST_SIGHT);
  const find = useSettled(words);
  const found = useRows(projectKey, { ...of, sort, find, where }, seek, sight);
  return { words, setWords, where, setWhere, sort, setSort, setSight, ...found };
}
export type AskedRows = ReturnType<typeof useAskedRows>;
