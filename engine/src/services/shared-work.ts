/** Work that several wait for: it is ended when the last of them has gone. One who waits without a signal never goes. */
export class SharedWork<T> {
  private readonly abort = new AbortController();
  private readonly result: Promise<T>;
  private waiting = 0;

  constructor(work: (signal: AbortSignal) => Promise<T>) {
    this.result = work(this.abort.signal);
    this.result.catch(() => undefined); // told to those who wait
  }

  /** Nobody can join any more. */
  get isEnded(): boolean {
    return this.abort.signal.aborted;
  }

  join(signal?: AbortSignal): Promise<T> {
    this.waiting++;
    const leave = (): void => {
      if (--this.waiting === 0) this.abort.abort();
    };
    if (signal?.aborted) leave();
    else signal?.addEventListener('abort', leave, { once: true });
    return this.result;
  }
}
