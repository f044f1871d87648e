import { lookup as systemLookup, type LookupAddress } from 'node:dns';
import { isPublicAddress } from './public-address.js';
import { noService } from './wire-problem.js';

/** As many names are looked up at the same time: the system does it on the threads that read files, too, and a name may take long. */
const AT_ONCE = 2;

type Found = (error: Error | null, address: string | LookupAddress[], family?: number) => void;
interface Options {
  readonly all?: boolean | undefined;
}

let running = 0;
const waiting: (() => void)[] = [];

function lookUp(host: string, options: object, done: (error: Error | null, found: LookupAddress[]) => void): void {
  const begin = (): void => {
    running++;
    systemLookup(host, { ...options, all: true }, (error, found) => {
      running--;
      waiting.shift()?.();
      done(error, found);
    });
  };
  if (running < AT_ONCE) begin();
  else waiting.push(begin);
}

const give = (options: Options, done: Found, found: LookupAddress[]): void => {
  if (options.all) return done(null, found);
  done(null, found[0]!.address, found[0]!.family);
};

export const anyLookup = (host: string, options: Options, done: Found): void =>
  lookUp(host, options, (error, found) => (error ? done(error, []) : give(options, done, found)));

/** A name as an address that the whole network shares; another one is refused before anything is sent. */
export const publicLookup = (host: string, options: Options, done: Found): void =>
  lookUp(host, options, (error, found) => {
    if (error) return done(error, []);
    const own = found.find((a) => !isPublicAddress(a.address));
    if (own) return done(noService(host, 'private', own.address), []);
    give(options, done, found);
  });
