import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { ProblemError } from '@rootmap/core';
import { dataFolder, parseHostList, parsePlaceList, type AllowedHost, type PlaceSetting } from '@rootmap/engine/workbench';

export interface Config {
  readonly host: string;
  readonly port: number;
  readonly dataFolder: string;
  readonly places: readonly PlaceSetting[];
  /** Needed beyond loopback: sent as a bearer token, or once as `?key=` in the address. */
  readonly accessKey: string | null;
  /** Folder of the simulated devices; null: this is the real thing. */
  readonly demoFolder: string | null;
  /** Hosts of one's own network that linked services may stand on: in every place, or in one. */
  readonly hosts: readonly AllowedHost[];
  /** Address of the servers that stand in for those of others; null: they do not run. */
  readonly standIns: readonly [address: string, secure: string | null] | null;
  readonly webFolder: string;
  /** How long one geodatabase may be read without a word of progress, in milliseconds. */
  readonly readLimitMs: number;
  /** Program that shows a folder, instead of that of the system. */
  readonly files: string | null;
  /** Further names by which others reach this server, for the check of the Host header. */
  readonly names: readonly string[];
}

const LOOPBACK = /^(127(\.\d{1,3}){3}|::1|localhost)$/;
export const isLoopback = (host: string): boolean => LOOPBACK.test(host);

/** Throws `wrong-use` where others reach this server, too. */
export function checkHostsEditable(config: Pick<Config, 'host'>): void {
  if (!isLoopback(config.host))
    throw new ProblemError({
      code: 'wrong-use',
      message: 'Which hosts may be asked is set where this server is configured: others reach it, too. Name them in ROOTMAP_HOSTS.',
    });
}

/** The built web app, seen from the bundled server or from the compiled one. */
function builtWeb(): string {
  const folders = ['../../../web/dist', '../../web/dist'].map((f) => fileURLToPath(new URL(f, import.meta.url)));
  return folders.find((f) => existsSync(f)) ?? folders[0]!;
}

/** `http://host:port`, and the same with a certificate of its own after a comma. */
function standInsOf(text: string | undefined): Config['standIns'] {
  const [address, secure = null] = (text ?? '').split(',').filter(Boolean);
  return address === undefined ? null : [address, secure];
}

const DEFAULT_PORT = 4870;
const DEFAULT_READ_SECONDS = 120;

/** Configuration from the environment; see docs/configuration.md. Throws a sentence where it cannot be used. */
export function readConfig(env: NodeJS.ProcessEnv): Config {
  const port = Number(env['ROOTMAP_PORT'] ?? DEFAULT_PORT);
  if (!Number.isInteger(port) || port < 0 || port > 65535)
    throw new Error(`ROOTMAP_PORT is "${env['ROOTMAP_PORT']}". Give a number from 0 to 65535.`);
  const host = env['ROOTMAP_HOST'] ?? '127.0.0.1';
  const readSeconds = Number(env['ROOTMAP_READ_SECONDS'] ?? DEFAULT_READ_SECONDS);
  if (!(readSeconds >= 1 && readSeconds <= 3600))
    throw new Error(`ROOTMAP_READ_SECONDS is "${env['ROOTMAP_READ_SECONDS']}". Give a number from 1 to 3600.`);
  const accessKey = env['ROOTMAP_KEY'] || null;
  if (!isLoopback(host) && (accessKey === null || accessKey.length < 16))
    throw new Error(`ROOTMAP_HOST is "${host}", which others can reach. Set ROOTMAP_KEY to a secret of 16 characters or more.`);
  return {
    host,
    port,
    dataFolder: dataFolder(env),
    places: parsePlaceList(env['ROOTMAP_PLACES'], process.cwd()),
    files: env['ROOTMAP_FILES'] || null,
    accessKey,
    readLimitMs: readSeconds * 1000,
    names: (env['ROOTMAP_NAMES'] ?? '').toLowerCase().split(',').filter(Boolean),
    demoFolder: env['ROOTMAP_DEMO'] || null,
    hosts: parseHostList(env['ROOTMAP_HOSTS']),
    standIns: env['ROOTMAP_DEMO'] ? standInsOf(env['ROOTMAP_STANDINS']) : null,
    webFolder: env['ROOTMAP_WEB'] ?? builtWeb(),
  };
}
