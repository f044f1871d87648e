import type { Place } from '@rootmap/core';

/** 0 done, nothing wrong; 1 done, something is not sound; 2 wrong use; 3 failed or locked. */
export type ExitStatus = 0 | 1 | 2 | 3;

/** What a command is given: parsed options, places, and where to write. */
export interface Call {
  /** Positional arguments, made absolute. */
  readonly paths: readonly string[];
  /** The same as they were typed. */
  readonly words: readonly string[];
  readonly flags: Readonly<Record<string, string | boolean | readonly string[] | undefined>>;
  readonly places: readonly Place[];
  readonly cwd: string;
  progress(text: string): void;
}

/** What was given to a flag; null: it was not named. */
export function textFlag({ flags }: Call, name: string): string | null {
  const value = flags[name];
  return typeof value === 'string' ? value : null;
}

export interface Answer {
  /** The one JSON document. */
  readonly json: unknown;
  /** For a person. */
  readonly text: readonly string[];
  readonly status: ExitStatus;
}

export interface Command {
  readonly usage: string;
  readonly summary: string;
  /** Command lines that people run, without the name of the program. */
  readonly examples: readonly string[];
  readonly flags: Readonly<Record<string, { readonly type: 'string' | 'boolean'; readonly multiple?: boolean }>>;
  /** Fewest and most positional arguments. */
  readonly paths: readonly [number, number];
  run(call: Call): Promise<Answer>;
}
