import { ProblemError } from '@rootmap/core';
import type { AnswerPage } from '../tasks/answer-pages.js';

/** Whoever asks for an answer asks for its pages at once; after that they are not kept. */
const KEPT_MS = 60_000;
/** The newest answer is kept whatever its size. */
const MOST_BYTES = 64 << 20;

/** Pages of answers that were given a moment ago, until they are asked for. */
export class KeptPages {
  private readonly answers = new Set<ReadonlyMap<string, Uint8Array>>();

  keep(pages: readonly AnswerPage[]): void {
    if (pages.length === 0) return;
    const answer = new Map(pages.map((p) => [p.id, p.json]));
    this.answers.add(answer);
    for (const oldest of this.answers) if (oldest !== answer && this.bytes() > MOST_BYTES) this.answers.delete(oldest);
    setTimeout(() => this.answers.delete(answer), KEPT_MS).unref();
  }

  /** JSON, UTF-8. Throws `not-found` where it is not kept any longer. */
  page(id: string): Uint8Array {
    for (const answer of this.answers) {
      const json = answer.get(id);
      if (json) return json;
    }
    throw new ProblemError({ code: 'not-found', what: 'page of an answer', id });
  }

  private bytes(): number {
    let bytes = 0;
    for (const answer of this.answers) for (const json of answer.values()) bytes += json.length;
    return bytes;
  }
}
