import { Worker, type Transferable, type WorkerOptions } from 'node:worker_threads';

interface Waiting<Reply> {
  readonly resolve: (reply: Reply) => void;
  readonly reject: (error: Error) => void;
}

/** A thread that answers what it is asked, one answer to each and in the same order. While nobody waits it keeps no process alive. */
export class AskedThread<Ask, Reply> {
  private readonly worker: Worker;
  private readonly waiting: Waiting<Reply>[] = [];
  private over: string | null = null;

  /** @param failure what is thrown where it ends before it has answered, made of the reason */
  constructor(
    script: URL,
    private readonly failure: (why: string) => Error,
    options: WorkerOptions = {},
  ) {
    this.worker = new Worker(script, options)
      .on('message', (reply: Reply) => this.take(reply))
      .on('error', (error) => this.fail(error.message))
      .on('exit', () => this.fail('its thread ended'));
    this.worker.unref();
  }

  /** It has ended, and answers nothing any more. */
  get isOver(): boolean {
    return this.over !== null;
  }

  /** @param along memory that goes along, and is not here any more */
  async ask(ask: Ask, along: readonly Transferable[] = []): Promise<Reply> {
    if (this.over !== null) throw this.failure(this.over);
    return new Promise((resolve, reject) => {
      this.worker.postMessage(ask, along);
      this.worker.ref();
      this.waiting.push({ resolve, reject }); // what could not be posted throws, and is not waited for
    });
  }

  /** Its last order, which it does not answer: the process lives until it has ended. */
  tellLast(order: Ask): void {
    this.worker.ref();
    this.worker.postMessage(order);
  }

  async end(): Promise<void> {
    await this.worker.terminate();
  }

  private take(reply: Reply): void {
    const first = this.waiting.shift();
    if (this.waiting.length === 0) this.worker.unref();
    first?.resolve(reply);
  }

  private fail(why: string): void {
    this.over ??= why;
    for (const { reject } of this.waiting.splice(0)) reject(this.failure(why));
  }
}
