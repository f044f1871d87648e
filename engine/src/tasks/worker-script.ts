let script: URL | null = null;

/** Where the script of this process stands, beside which those of its threads are; null outside the pool. */
export const workerScript = (): URL | null => script;
export const useScript = (to: URL): void => void (script = to);
