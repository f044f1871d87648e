import { mkdirSync, renameSync, rmSync } from 'node:fs';
import { join } from '@rootmap/engine';
import { writeProjectFile } from '@rootmap/core';
import { drawMap } from './draw-maps.js';
import { DEFINITIONS } from './crs-texts.js';
import { makeEllisandeData, scourFigures, type Size } from './ellisande-data.js';
import { makeDownloads } from './downloads.js';
import { makeGrownFolder } from './grown-folder.js';
import { makeWorldOutline } from './world-outline.js';
import { put } from './write-data.js';
import { putGeopackage } from './write-geopackage.js';

export interface DemoPlaces {
  readonly desk: string;
  readonly share: string;
  readonly stick: string;
  readonly arrivals: string;
}

export const demoPlaces = (folder: string): DemoPlaces => ({
  desk: join(folder, 'places', 'desk'),
  share: join(folder, 'places', 'share'),
  stick: join(folder, 'places', 'stick'),
  arrivals: join(folder, 'places', 'arrivals'),
});

/** What other machines call the places; in the form of ROOTMAP_PLACES. */
export const placesSetting = (p: DemoPlaces): string =>
  `desk=${p.desk},D:;share=${p.share},\\\\harbour\\gis;stick=${p.stick},E:;arrivals=${p.arrivals}`;

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

async function drawEllisandeMaps(root: string, places: DemoPlaces): Promise<void> {
  const hydro = join(root, 'received', 'hydro_office');
  const field = join(root, 'received', 'field_2025');
  const moorings = join(root, 'derived', 'moorings');
  const change = join(root, 'derived', 'change');
  const container = join(root, 'geodatabases', 'ellisande.gpkg');
  const maps = join(root, 'maps');
  await drawMap({
    file: join(maps, 'harbour_approach.owc.json'),
    title: 'Harbour approach',
    summary: 'What a skipper meets on the way in.',
    when: '2026-02-25T09:00:00Z',
    layers: [
      { title: 'Lights', data: join(hydro, 'lights.shp'), label: { field: 'light_nm' } },
      { title: 'Fairway', data: join(hydro, 'fairway.shp') },
      { title: 'Monitoring sites', data: container, table: 'monitoring_sites' },
      { title: 'Exclusion zone', data: join(root, 'delivered', 'exclusion_zone.geojson') },
      { title: 'Depth model', data: join(hydro, 'depth_model.tif') },
    ],
  });
  await drawMap({
    file: join(maps, 'mooring_options.owc.json'),
    title: 'Mooring options',
    summary: 'Places where swing moorings would not touch a bed.',
    when: '2026-02-26T09:00:00Z',
    layers: [
      { title: 'Proposed moorings', data: join(moorings, 'moorings_proposed.shp'), label: { field: 'mooring_no' } },
      { title: 'Anchor blocks', data: join(moorings, 'anchor_blocks.shp') },
      { title: 'Chain lengths', data: join(moorings, 'chain_lengths.shp') },
      { title: 'Swing circles', data: join(moorings, 'swing_circles.shp'), filter: 'cover_pct > 10' },
      { title: 'Protected zones', data: container, table: 'protected_zones' },
      { title: 'Depth contours', data: join(hydro, 'depth_contours.shp') },
    ],
  });
  const mk = 'file:///C:/Users/mk/ellisande/field_2025';
  await drawMap({
    file: join(maps, 'bed_survey.owc.json'),
    title: 'Bed survey',
    summary: 'Drawn on a colleague’s laptop; every path names that machine.',
    when: '2025-10-12T15:00:00Z',
    layers: [
      { title: 'Drop-camera stills', data: join(field, 'drop_camera.shp'), href: `${mk}/drop_camera.shp` },
      { title: 'Sediment samples', data: join(field, 'sediment_samples.shp'), href: `${mk}/sediment_samples.shp` },
      { title: 'Transects', data: join(field, 'transects.shp'), href: `${mk}/transects.shp` },
      { title: 'Eelgrass cover', data: join(field, 'eelgrass_cover.shp'), href: `${mk}/eelgrass_cover.shp`, filter: "survey = 'summer'" },
      {
        title: 'Seagrass beds 2025',
        data: join(field, 'seagrass_beds_2025.shp'),
        href: `${mk}/seagrass_beds_2025.shp`,
        label: { field: 'bed_name' },
      },
    ],
  });
  await drawMap({
    file: join(maps, 'seagrass_change.owc.json'),
    title: 'Seagrass change',
    summary: 'Beds of 2019 against those of 2025.',
    when: '2026-02-27T09:00:00Z',
    layers: [
      { title: 'Bed centres', data: join(change, 'bed_centres.shp') },
      { title: 'Change lines', data: join(change, 'change_lines.shp') },
      { title: 'Beds gained', data: join(change, 'beds_gained.shp'), label: { field: 'bed_name' } },
      { title: 'Beds lost', data: join(change, 'beds_lost.shp') },
      { title: 'Beds stable', data: join(change, 'beds_stable.shp') },
      { title: 'Seagrass beds 2019', data: join(root, 'received', 'field_2019', 'seagrass_beds_2019.shp') },
      { title: 'Bed density', data: join(root, 'derived', 'bed_density.tif') },
    ],
  });
  const scour = join(root, 'derived', 'scour');
  await drawMap({
    file: join(maps, 'chain_scour.owc.json'),
    title: 'Chain scour',
    summary: 'What the chains of today’s moorings scrape off the bottom.',
    when: '2026-03-03T15:00:00Z',
    layers: [
      { title: 'Probe holes', data: join(scour, 'probe_holes.shp') },
      { title: 'Drag lines', data: join(scour, 'drag_lines.shp') },
      { title: 'Scour marks', data: join(scour, 'scour_marks.shp'), label: { field: 'mark_no' }, filter: 'cover_pct > 5' },
      { title: 'Bare rings', data: join(root, 'derived', 'rings', 'bare_rings.shp') },
    ],
  });
  await drawMap({
    file: join(maps, 'print_for_council.owc.json'),
    title: 'Print for the council',
    summary: 'The sheet for the meeting in March.',
    when: '2026-03-05T09:00:00Z',
    layers: [
      { title: 'Lights on the sheet', data: join(hydro, 'lights.shp'), label: { field: 'light_nm' } },
      { title: 'Zone to be decided on', data: join(root, 'delivered', 'exclusion_zone.geojson') },
    ],
  });
  await drawMap({
    file: join(maps, 'regional_overview.owc.json'),
    title: 'Regional overview',
    summary: 'Draws on the team share and on the stick of the June dives.',
    when: '2026-06-14T09:00:00Z',
    layers: [
      {
        title: 'Dive points',
        data: join(places.stick, 'june_dives', 'dive_points.geojson'),
        href: 'file:///E:/june_dives/dive_points.geojson',
        link: { name: 'june_dives', path: 'dive_points.geojson' },
      },
      {
        title: 'Survey tracks',
        data: join(places.stick, 'june_dives', 'survey_tracks.shp'),
        href: 'file:///E:/june_dives/survey_tracks.shp',
        link: { name: 'june_dives', path: 'survey_tracks.shp' },
      },
      { title: 'Buoys', data: join(hydro, 'buoys.shp'), label: { field: 'buoy_nm' } },
      {
        title: 'Wind stations',
        data: join(places.share, 'other_team', 'wind_stations.shp'),
        href: 'file://harbour/gis/other_team/wind_stations.shp',
      },
      {
        title: 'Harbour limits',
        data: join(places.share, 'base_library', 'harbour_limits.shp'),
        href: 'file://harbour/gis/base_library/harbour_limits.shp',
        link: { name: 'base_library', path: 'harbour_limits.shp' },
      },
      {
        title: 'Coastline',
        data: join(places.share, 'base_library', 'coastline.gpkg'),
        table: 'land',
        href: 'file://harbour/gis/base_library/coastline.gpkg#land',
        link: { name: 'base_library', path: 'coastline.gpkg' },
      },
      { title: 'Sea chart backdrop', code: 'wms', href: 'https://charts.harbour.example/wms?service=WMS' },
    ],
  });
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
