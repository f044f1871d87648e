import { TextDecoder, TextEncoder } from 'node:util';

// Every browser has them; the simulated one of the component tests does not.
Object.assign(globalThis, { TextEncoder, TextDecoder });
