import type { ChildProcess } from 'node:child_process';

interface Started {
  readonly out: string;
  readonly env?: Readonly<Record<string, string>>;
}
export interface WindowsMachine {
  readonly folder: string;
  readonly workspace: string;
  letter(name: string, to: string | null): void;
  node(args: readonly string[], options: Started): ChildProcess;
  program(name: string, args: readonly string[], options: Started): ChildProcess;
  end(name: string): void;
  finish(args: readonly string[], options?: { readonly env?: Readonly<Record<string, string>> }): Promise<{ status: number; text: string }>;
  close(): void;
}
export function ensureWine(): Promise<string[]>;
export function windowsMachine(drives?: Readonly<Record<string, string>>): Promise<WindowsMachine>;
