import { useEffect, useState } from 'react';
import { SEND_ALL } from '@rootmap/core';
import type { PackPreview, SendRequest } from '@rootmap/core/contract';
import { useBundle } from '../api/queries.js';
import { useSettled } from '../folders/use-edit.js';

/** The whole root, as it is. */
export const SEND_EVERYTHING: SendRequest = { ...SEND_ALL, added: [] };

export interface Sending {
  readonly send: SendRequest;
  readonly set: (changes: Partial<SendRequest>) => void;
  readonly preview: PackPreview | null;
  /** What is shown is of choices that have changed since. */
  readonly isOld: boolean;
  readonly error: unknown;
  readonly retry: () => void;
}

const keptAs = (key: string): string => `rootmap.send.${key}`;

/** What was chosen in this window before it was loaded again. */
function keptIn(key: string): SendRequest | null {
  const text = sessionStorage.getItem(keptAs(key));
  return text === null ? null : { ...SEND_EVERYTHING, ...(JSON.parse(text) as Partial<SendRequest>) };
}

/** What a person chooses for a bundle, and what it would hold then. @param before what was sent last; null: nothing yet */
export function useSend(key: string, before: SendRequest | null): Sending {
  const [send, setSend] = useState<SendRequest>(() => keptIn(key) ?? { ...SEND_EVERYTHING, ...before });
  useEffect(() => sessionStorage.setItem(keptAs(key), JSON.stringify(send)), [key, send]);
  const settled = useSettled(send, 150);
  const preview = useBundle(key, settled);
  return {
    send,
    set: (changes) => setSend((now) => ({ ...now, ...changes })),
    preview: preview.data ?? null,
    isOld: preview.isPlaceholderData || settled !== send,
    error: preview.isError ? preview.error : null,
    retry: () => void preview.refetch(),
  };
}
