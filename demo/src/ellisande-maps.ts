import { join } from '@rootmap/engine';
import { drawMap, type DrawnMap } from './draw-maps.js';

interface Places {
  readonly share: string;
  readonly stick: string;
}

/** The maps of the study, drawn while everything stood where it was made. */
export async function drawEllisandeMaps(root: string, { share, stick }: Places): Promise<void> {
  const maps = [harbourApproach, mooringOptions, bedSurvey, seagrassChange, chainScour, councilSheet];
  for (const map of [...maps.map((draw) => draw(root)), regionalOverview(root, share, stick)]) await drawMap(map);
}

const hydroOffice = (root: string): string => join(root, 'received', 'hydro_office');
const container = (root: string): string => join(root, 'geodatabases', 'ellisande.gpkg');

function harbourApproach(root: string): DrawnMap {
  const hydro = hydroOffice(root);
  return {
    file: join(root, 'maps', 'harbour_approach.owc.json'),
    title: 'Harbour approach',
    summary: 'What a skipper meets on the way in.',
    when: '2026-02-25T09:00:00Z',
    layers: [
      { title: 'Lights', data: join(hydro, 'lights.shp'), label: { field: 'light_nm' } },
      { title: 'Fairway', data: join(hydro, 'fairway.shp') },
      { title: 'Monitoring sites', data: container(root), table: 'monitoring_sites' },
      { title: 'Exclusion zone', data: join(root, 'delivered', 'exclusion_zone.geojson') },
      { title: 'Depth model', data: join(hydro, 'depth_model.tif') },
    ],
  };
}

function mooringOptions(root: string): DrawnMap {
  const hydro = hydroOffice(root);
  const moorings = join(root, 'derived', 'moorings');
  return {
    file: join(root, 'maps', 'mooring_options.owc.json'),
    title: 'Mooring options',
    summary: 'Places where swing moorings would not touch a bed.',
    when: '2026-02-26T09:00:00Z',
    layers: [
      { title: 'Proposed moorings', data: join(moorings, 'moorings_proposed.shp'), label: { field: 'mooring_no' } },
      { title: 'Anchor blocks', data: join(moorings, 'anchor_blocks.shp') },
      { title: 'Chain lengths', data: join(moorings, 'chain_lengths.shp') },
      { title: 'Swing circles', data: join(moorings, 'swing_circles.shp'), filter: 'cover_pct > 10' },
      { title: 'Protected zones', data: container(root), table: 'protected_zones' },
      { title: 'Depth contours', data: join(hydro, 'depth_contours.shp') },
    ],
  };
}

function bedSurvey(root: string): DrawnMap {
  const field = join(root, 'received', 'field_2025');
  const mk = 'file:///C:/Users/mk/ellisande/field_2025';
  return {
    file: join(root, 'maps', 'bed_survey.owc.json'),
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
  };
}

function seagrassChange(root: string): DrawnMap {
  const change = join(root, 'derived', 'change');
  return {
    file: join(root, 'maps', 'seagrass_change.owc.json'),
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
  };
}

function chainScour(root: string): DrawnMap {
  const scour = join(root, 'derived', 'scour');
  return {
    file: join(root, 'maps', 'chain_scour.owc.json'),
    title: 'Chain scour',
    summary: 'What the chains of today’s moorings scrape off the bottom.',
    when: '2026-03-03T15:00:00Z',
    layers: [
      { title: 'Probe holes', data: join(scour, 'probe_holes.shp') },
      { title: 'Drag lines', data: join(scour, 'drag_lines.shp') },
      { title: 'Scour marks', data: join(scour, 'scour_marks.shp'), label: { field: 'mark_no' }, filter: 'cover_pct > 5' },
      { title: 'Bare rings', data: join(root, 'derived', 'rings', 'bare_rings.shp') },
    ],
  };
}

function councilSheet(root: string): DrawnMap {
  const hydro = hydroOffice(root);
  return {
    file: join(root, 'maps', 'print_for_council.owc.json'),
    title: 'Print for the council',
    summary: 'The sheet for the meeting in March.',
    when: '2026-03-05T09:00:00Z',
    layers: [
      { title: 'Lights on the sheet', data: join(hydro, 'lights.shp'), label: { field: 'light_nm' } },
      { title: 'Zone to be decided on', data: join(root, 'delivered', 'exclusion_zone.geojson') },
    ],
  };
}

function regionalOverview(root: string, share: string, stick: string): DrawnMap {
  const hydro = hydroOffice(root);
  return {
    file: join(root, 'maps', 'regional_overview.owc.json'),
    title: 'Regional overview',
    summary: 'Draws on the team share and on the stick of the June dives.',
    when: '2026-06-14T09:00:00Z',
    layers: [
      {
        title: 'Dive points',
        data: join(stick, 'june_dives', 'dive_points.geojson'),
        href: 'file:///E:/june_dives/dive_points.geojson',
        link: { name: 'june_dives', path: 'dive_points.geojson' },
      },
      {
        title: 'Survey tracks',
        data: join(stick, 'june_dives', 'survey_tracks.shp'),
        href: 'file:///E:/june_dives/survey_tracks.shp',
        link: { name: 'june_dives', path: 'survey_tracks.shp' },
      },
      { title: 'Buoys', data: join(hydro, 'buoys.shp'), label: { field: 'buoy_nm' } },
      {
        title: 'Wind stations',
        data: join(share, 'other_team', 'wind_stations.shp'),
        href: 'file://harbour/gis/other_team/wind_stations.shp',
      },
      {
        title: 'Harbour limits',
        data: join(share, 'base_library', 'harbour_limits.shp'),
        href: 'file://harbour/gis/base_library/harbour_limits.shp',
        link: { name: 'base_library', path: 'harbour_limits.shp' },
      },
      {
        title: 'Coastline',
        data: join(share, 'base_library', 'coastline.gpkg'),
        table: 'land',
        href: 'file://harbour/gis/base_library/coastline.gpkg#land',
        link: { name: 'base_library', path: 'coastline.gpkg' },
      },
      { title: 'Sea chart backdrop', code: 'wms', href: 'https://charts.harbour.example/wms?service=WMS' },
    ],
  };
}
