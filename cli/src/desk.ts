import { readFileSync } from 'node:fs';
import { ProblemError } from '@rootmap/core';
import { dataFolder, parseHostList, placeNameOf, resolve, ServiceDesk, type Scope, type SignIn, type Wire } from '@rootmap/engine';
import type { Call } from './command.js';

/** Flags by which a command says who asks. Never the secret itself: arguments stand in lists of processes. */
export const SIGN_IN_FLAGS = {
  user: { type: 'string' },
  'password-file': { type: 'string' },
  'key-name': { type: 'string' },
  'key-as': { type: 'string' },
  'key-file': { type: 'string' },
} as const;

/** Services as a folder may ask them: the settings of its place say which hosts are allowed. */
export interface FromHere {
  readonly desk: ServiceDesk;
  readonly wire: Wire;
  readonly place: string;
}

/** The desk for services, with what the app knows of them. */
export async function withDesk<T>(scope: Scope, work: (from: FromHere) => Promise<T>): Promise<T> {
  const { openStore, KnownServices } = await import('@rootmap/engine/store');
  const store = await openStore(dataFolder());
  const hosts = parseHostList(process.env['ROOTMAP_HOSTS']);
  const place = placeNameOf(scope.root ?? scope.named, scope.places);
  const desk = await ServiceDesk.open(new KnownServices(store), { dataFolder: dataFolder(), hosts });
  try {
    return await work({ desk, wire: desk.wireFrom(place), place });
  } finally {
    await desk.close();
    await store.destroy();
  }
}

/** Who asks, as the flags say it; null: nobody in particular. What is secret is read from a file, or asked for in the terminal. */
export async function signInFrom(call: Call): Promise<SignIn | null> {
  const { user, 'key-name': keyName, 'key-as': as = 'query' } = call.flags;
  if (typeof user === 'string')
    return { kind: 'password', name: user, password: await secret(call, 'password-file', `Password of ${user}: `) };
  if (typeof keyName !== 'string') return null;
  if (as !== 'query' && as !== 'header') throw new ProblemError({ code: 'wrong-use', message: '--key-as is query or header.' });
  return { kind: 'key', as, name: keyName, key: await secret(call, 'key-file', `Key ${keyName}: `) };
}

async function secret(call: Call, flag: 'password-file' | 'key-file', prompt: string): Promise<string> {
  const file = call.flags[flag];
  if (typeof file === 'string') return readFileSync(resolve(call.cwd, file), 'utf8').replace(/\r?\n$/, '');
  if (!process.stdin.isTTY)
    throw new ProblemError({ code: 'wrong-use', message: `There is no terminal to ask in. Name a file that holds it: --${flag} FILE.` });
  return hidden(prompt);
}

/** One line from the terminal, not shown as it is typed. */
function hidden(prompt: string): Promise<string> {
  process.stderr.write(prompt);
  const { stdin } = process;
  stdin.setRawMode(true);
  stdin.resume();
  return new Promise((done, failed) => {
    let typed = '';
    const take = (piece: Buffer): void => {
      for (const c of piece.toString('utf8')) {
        if (c === '\r' || c === '\n') return end(() => done(typed));
        if (c === '\u0003') return end(() => failed(new ProblemError({ code: 'cancelled', what: 'Signing in' })));
        typed = c === '\u007f' || c === '\b' ? typed.slice(0, -1) : typed + c;
      }
    };
    const end = (then: () => void): void => {
      stdin.off('data', take);
      stdin.setRawMode(false);
      stdin.pause();
      process.stderr.write('\n');
      then();
    };
    stdin.on('data', take);
  });
}
