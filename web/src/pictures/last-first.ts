/** Runs few things at once; what was asked for last comes first, since that is what is in sight. */
export function lastFirst(most: number): <T>(run: () => Promise<T>) => Promise<T> {
  const waiting: (() => void)[] = [];
  let running = 0;
  const next = (): void => {
    if (running >= most) return;
    const begin = waiting.pop();
    if (!begin) return;
    running++;
    begin();
  };
  return (run) =>
    new Promise((resolve, reject) => {
      waiting.push(() => {
        run()
          .then(resolve, reject)
          .finally(() => {
            running--;
            next();
          });
      });
      queueMicrotask(next);
    });
}
