import type { KeptLook, PageLayout, ShelvesView } from '@rootmap/core/contract';
import { api, ServerProblem } from '../api/client.js';

/** As a layout was kept by a browser: at first with one text, without a map of the region, and with one column in its legend. */
type BrowserLayout = Omit<PageLayout, 'notes' | 'has' | 'legendColumns'> & {
  readonly note?: string;
  readonly notes?: PageLayout['notes'];
  readonly legendColumns?: PageLayout['legendColumns'];
  readonly has: Omit<PageLayout['has'], 'locator'> & { readonly locator?: boolean };
};

const LAYOUTS = 'rootmap.layouts';
const LOOKS = 'rootmap.looks';

/** Layouts and looks that this browser kept before the server did go there, once, each under a name that is free. */
export async function takeOver(now: ShelvesView): Promise<ShelvesView> {
  const layouts = await moveAll(LAYOUTS, now.layouts, (kept) => api.keepLayout(layoutNow(kept as BrowserLayout)));
  const looks = await moveAll(LOOKS, now.looks, (kept) => api.keepLook(kept as KeptLook));
  return looks ?? layouts ?? now;
}

async function moveAll(
  key: string,
  there: readonly { readonly name: string }[],
  put: (kept: unknown) => Promise<ShelvesView>,
): Promise<ShelvesView | null> {
  const taken = new Set(there.map((t) => t.name));
  let last: ShelvesView | null = null;
  const all = listIn(localStorage.getItem(key));
  for (const [i, kept] of all.entries()) {
    const name = freeName((kept as { readonly name: string }).name, taken);
    taken.add(name);
    try {
      last = await put({ ...(kept as object), name });
    } catch (error) {
      if (!(error instanceof ServerProblem && error.details.status === 400)) throw error; // of another version, or of another page: it is left out
    }
    localStorage.setItem(key, JSON.stringify(all.slice(i + 1))); // what has gone there does not go again
  }
  localStorage.removeItem(key);
  return last;
}

function listIn(text: string | null): unknown[] {
  try {
    const list = JSON.parse(text ?? '[]') as unknown;
    return Array.isArray(list) ? list.filter((l) => typeof (l as { name?: unknown } | null)?.name === 'string') : [];
  } catch {
    return []; // it is no list
  }
}

const layoutNow = ({ note, notes, legendColumns, has, ...rest }: BrowserLayout): PageLayout => ({
  ...rest,
  notes: notes ?? (note ? [{ text: note, place: 'lower-left' }] : []),
  legendColumns: legendColumns ?? 1,
  has: { ...has, locator: (has as BrowserLayout['has'] | null)?.locator ?? false },
});

function freeName(name: string, taken: ReadonlySet<string>): string {
  for (let n = 1; ; n++) {
    const free = n === 1 ? name : `${name} (${n})`;
    if (!taken.has(free)) return free;
  }
}
