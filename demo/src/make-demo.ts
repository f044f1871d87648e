import { mkdirSync, renameSync, rmSync } from 'node:fs';
import { join } from '@rootmap/engine';
import { writeProjectFile } from '@rootmap/core';
import { DEFINITIONS } from './crs-texts.js';
import { makeEllisandeData, scourFigures, type Size } from './ellisande-data.js';
import { drawEllisandeMaps } from './ellisande-maps.js';
import { makeDownloads } from './downloads.js';
import { demoPlaces, type DemoPlaces } from './demo-places.js';
import { makeGrownFolder } from './grown-folder.js';
import { makeWorldOutline } from './world-outline.js';
import { put } from './write-data.js';
import { putGeopackage } from './write-geopackage.js';

/** Makes the whole demo below a folder, from nothing: data, maps, and then what happened to them. */
export async function makeDemo(folder: string, size: Size = 'full'): Promise<DemoPlaces> {
  rmSync(folder, { recursive: true, force: true });
  const places = demoPlaces(folder);
  for (const place of Object.values<string>({ ...places })) mkdirSync(place, { recursive: true });
  const root = join(places.desk, 'gis', 'ellisande_seagrass');
  makeEllisandeData(root, places.share, places.stick, size);
  makeProjectFile(root);
  await drawEllisandeMaps(root, places);
  whatHappened(root);
  await makeWorldOutline(join(places.desk, 'gis', 'world_outline'));
  mkdirSync(join(places.desk, 'downloads'));
  await makeDownloads(join(places.desk, 'downloads'));
  await makeGrownFolder(join(places.desk, 'older jobs', 'Tern colonies 2024'));
  return places;
}

function makeProjectFile(root: string): void {
  const text = writeProjectFile({
    id: '5f0c2a54-7e1b-4d09-9a61-3c8f0e6d1b27',
    name: 'ellisande_seagrass',
    title: 'Ellisande seagrass and moorings',
    summary: 'Where seagrass beds and swing moorings get in each other’s way, and where moorings could go instead.',
    created: '2025-02-03T10:30:00Z',
    crs: 'EPSG:32624',
    storedForm: 'relative',
    workingGeodatabase: 'geodatabases/ellisande.gpkg',
    folders: {
      received: 'originals',
      derived: 'working',
      delivered: 'results',
      geodatabases: 'geodatabases',
      maps: 'maps',
      documents: 'documents',
      exports: 'exports',
    },
    links: [
      {
        name: 'base_library',
        path: null,
        address: 'file://harbour/gis/base_library',
        note: 'Coastline and limits that all projects share',
      },
      { name: 'june_dives', path: null, address: 'file:///E:/june_dives', note: 'Tracks and dive points, on the stick' },
    ],
  });
  put(join(root, 'ellisande_seagrass.rootmap.json'), text, '2025-02-03T10:30:00Z');
  mkdirSync(join(root, 'exports'), { recursive: true });
}

/**
 * Tidying up, as it is done by hand: a folder renamed, files split over three, shapefiles put into a geodatabase, one renamed,
 * a map moved. The maps know nothing of it.
 */
function whatHappened(root: string): void {
  renameSync(join(root, 'derived', 'moorings'), join(root, 'delivered', 'moorings_2026'));
  const change = join(root, 'derived', 'change');
  moveDataset(change, join(root, 'derived', 'beds'), ['beds_gained', 'beds_lost', 'beds_stable']);
  moveDataset(change, join(root, 'delivered', 'centres'), ['bed_centres']);
  moveDataset(change, join(root, 'derived', 'lines'), ['change_lines']);
  rmSync(change, { recursive: true });
  const scour = join(root, 'derived', 'scour');
  const tables = Object.entries(scourFigures()).map(([name, features]) => ({ name, features, srsId: 32624 }));
  putGeopackage(join(root, 'geodatabases', 'scour.gpkg'), tables, DEFINITIONS, '2026-03-09T10:00:00Z');
  rmSync(scour, { recursive: true });
  const rings = join(root, 'derived', 'rings');
  for (const ending of ENDINGS) renameSync(join(rings, `bare_rings.${ending}`), join(rings, `without_growth.${ending}`));
  mkdirSync(join(root, 'maps', 'sent out'));
  renameSync(join(root, 'maps', 'print_for_council.owc.json'), join(root, 'maps', 'sent out', 'print_for_council.owc.json'));
}

const ENDINGS = ['shp', 'shx', 'dbf', 'prj', 'cpg'] as const;

function moveDataset(from: string, to: string, names: readonly string[]): void {
  mkdirSync(to, { recursive: true });
  for (const name of names) for (const ending of ENDINGS) renameSync(join(from, `${name}.${ending}`), join(to, `${name}.${ending}`));
}
