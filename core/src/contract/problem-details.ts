import type { WireTrouble } from '../problem.js';

/** RFC 9457. */
export interface ProblemDetails {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly detail: string;
  readonly code: string;
  /** What is the matter with a server, and its host: where `code` is `no-service`. */
  readonly trouble?: WireTrouble;
  readonly host?: string;
}
