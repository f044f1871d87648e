/** From here on no array of bytes in this process may be longer: what asks for one fails, and the machine keeps its memory. */
export function boundArrays(mostBytes: number): void {
  const bounded = <T extends new (...args: never[]) => object>(of: T): T =>
    new Proxy(of, {
      construct(target, args: unknown[], newTarget) {
        if (typeof args[0] === 'number' && args[0] > mostBytes)
          throw new RangeError('it grows beyond what a document takes when it is unpacked');
        return Reflect.construct(target, args, newTarget === proxies.get(target) ? target : newTarget) as object;
      },
    });
  const proxies = new Map<unknown, unknown>();
  for (const name of ['Uint8Array', 'Uint8ClampedArray', 'ArrayBuffer'] as const) {
    const proxy = bounded(globalThis[name] as never);
    proxies.set(globalThis[name], proxy);
    Object.defineProperty(globalThis, name, { value: proxy, writable: true, configurable: true });
  }
}
