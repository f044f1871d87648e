import { parseArgs } from 'node:util';
import { startStandIns } from './start-standins.js';
import { MEMBER, TILE_KEY } from './switches.js';

const { values } = parseArgs({ options: { port: { type: 'string', default: '4880' }, soundings: { type: 'string', default: '0' } } });
const standIns = await startStandIns({ port: Number(values.port), soundings: Number(values.soundings) });
process.stdout.write(
  `${[
    'Stand-ins for servers of others, on this machine only:',
    `  charts (WMS)              ${standIns.address}/charts/wms`,
    `  library (OGC API)         ${standIns.address}/library`,
    `  members (OGC API)         ${standIns.address}/members   name ${MEMBER.name}, password ${MEMBER.password}`,
    `  tiles                     ${standIns.address}/tiles/{z}/{x}/{y}.png`,
    `  tiles with a key          ${standIns.address}/keyed/{z}/{x}/{y}.png   api_key ${TILE_KEY}`,
    `  a file                    ${standIns.address}/downloads/islet_beacons.zip`,
    `  signed by itself          ${standIns.secure}/library`,
  ].join('\n')}\n`,
);
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => void standIns.stop().then(() => process.exit(0)));
