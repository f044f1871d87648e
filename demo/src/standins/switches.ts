/** How the stand-ins behave: switched in Demo devices and by tests. */
export interface Switches {
  /** Answers come after ten seconds. */
  slow: boolean;
  /** Every answer is 503, with `Retry-After`. */
  failing: boolean;
  /** The charts stand at another address and say so. */
  moved: boolean;
  /** Downloads are of the second edition. */
  newEdition: boolean;
}

export const switchesAtFirst = (): Switches => ({ slow: false, failing: false, moved: false, newEdition: false });
export const isSwitch = (name: string): name is keyof Switches => name in switchesAtFirst();

export const MEMBER = { name: 'guest', password: 'tide table' } as const;
export const TILE_KEY = 'kelp-42';
