import { join } from '@rootmap/engine';

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
