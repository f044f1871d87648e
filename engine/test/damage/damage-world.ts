import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { buildWorld, type MapText } from './build.js';
import { hurt } from './hurt.js';
import { truthOf } from './truth.js';
import { DAMAGES, World, type DamagedWorld, type MapMade } from './world.js';

/** A project whose data is damaged in known ways, and the truth of where everything went, decided before anything of the app looks at it. */
export class DamageMaker {
  private readonly world: World;

  constructor(folder: string, seed: number, datasets: number, keepsCopies: boolean) {
    this.world = new World(folder, seed, datasets, keepsCopies);
  }

  /** Writes the project. Between this and `damage` its maps may be told to remember their data. */
  build(): Pick<DamagedWorld, 'places' | 'root'> {
    return buildWorld(this.world);
  }

  /** Damages most sites, some maps, and the root; then says what is true. */
  damage(): DamagedWorld {
    const w = this.world;
    const kinds = [...DAMAGES].sort(() => w.random() - 0.5);
    let next = 0;
    // What happens to a place as a whole is decided before anything else happens on it.
    const onStick = w.sites.find((s) => s.folder.startsWith(`${w.places[2]!.folder}/`));
    const dice = w.random();
    if (onStick && dice < 0.3) hurt(w, onStick, dice < 0.12 ? 'place absent, copies are left' : 'drive renamed');
    for (const site of w.sites) {
      if (w.random() < 0.2) continue;
      for (let tries = 0; tries < kinds.length; tries++) if (hurt(w, site, kinds[next++ % kinds.length]!)) break;
    }
    for (const map of w.maps) {
      takeSourcesOut(w, map);
      if (w.random() < 0.15) {
        const to = join(w.root, 'maps', 'sent', 'to partners', map.path.slice(map.path.lastIndexOf('/') + 1));
        w.move(map.path, to);
        map.isMoved = true;
        map.path = to;
      }
    }
    if (w.random() < 0.4) w.moveRoot(join(w.folder, 'desk', 'gis', 'study 2026'));
    w.places[2] = { ...w.places[2]!, driveNames: [w.stickDrive] };
    if (w.isStickAway) w.move(join(w.folder, 'stick'), join(w.folder, 'stick away'));
    return { places: w.places, root: w.root, datasets: w.items.filter((i) => i.path !== null).length, cases: truthOf(w) };
  }
}

function takeSourcesOut(w: World, map: MapMade): void {
  const text = JSON.parse(readFileSync(map.path, 'utf8')) as MapText;
  map.layers.forEach((layer, i) => {
    if (w.random() >= 0.02) return;
    layer.href = null;
    text.features[i]!.properties.offerings[0]!.contents = [];
  });
  writeFileSync(map.path, JSON.stringify(text, null, 2));
}
