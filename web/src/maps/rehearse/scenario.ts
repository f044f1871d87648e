import type { DriveView, PathRequest, PlaceView, RehearsalRequest } from '@rootmap/core/contract';

/** What could happen to a project, as people say it. */
export type Scenario =
  | { readonly kind: 'move'; readonly to: PathRequest | null }
  | { readonly kind: 'stick'; readonly drive: string }
  | { readonly kind: 'drive'; readonly place: string; readonly drive: string }
  | { readonly kind: 'without'; readonly place: string }
  | { readonly kind: 'strict' }
  | { readonly kind: 'long'; readonly path: string };
export type ScenarioKind = Scenario['kind'];

export const SCENARIO_WORDS: Readonly<Record<ScenarioKind, string>> = {
  move: 'The root moves to another folder',
  stick: 'A copy on a stick, opened on another machine',
  drive: 'Opened where a drive has another name',
  without: 'Opened without one of the places',
  strict: 'On a disk that tells upper and lower case apart',
  long: 'Unpacked under a long path on another machine',
};

export function firstScenario(kind: ScenarioKind, places: readonly PlaceView[], ownPlace: string): Scenario {
  const named = places.find((p) => p.name === ownPlace && p.driveNames.length > 0) ?? places.find((p) => p.driveNames.length > 0);
  const other = places.find((p) => p.name !== ownPlace && p.present) ?? places[0];
  switch (kind) {
    case 'move':
      return { kind, to: null };
    case 'stick':
      return { kind, drive: 'G:' };
    case 'drive':
      return { kind, place: named?.name ?? ownPlace, drive: 'F:' };
    case 'without':
      return { kind, place: other?.name ?? ownPlace };
    case 'strict':
      return { kind };
    case 'long':
      return {
        kind,
        path: `C:\\Users\\${'f'.padEnd(12, 'x')}\\Documents\\received from partners\\${'a long folder name '.repeat(6).trim()}`,
      };
  }
}

const STAY: Omit<RehearsalRequest, 'map'> = {
  to: null,
  isCopy: false,
  isElsewhere: false,
  without: [],
  drives: [],
  isStrict: false,
  hasPathLimit: false,
};

/** The request that works a scenario out; null: something is not said yet. */
export function requestOf(s: Scenario, map: string | null, rootName: string): RehearsalRequest | null {
  switch (s.kind) {
    case 'move':
      return s.to && { ...STAY, map, to: { place: s.to.place, path: s.to.path === '' ? rootName : `${s.to.path}/${rootName}` } };
    case 'stick':
      return isDrive(s.drive) ? { ...STAY, map, to: `${s.drive.trim()}\\${rootName}`, isCopy: true, isElsewhere: true } : null;
    case 'drive':
      return isDrive(s.drive) || s.drive.startsWith('\\\\')
        ? { ...STAY, map, drives: [{ place: s.place, names: [s.drive.trim()] }] }
        : null;
    case 'without':
      return { ...STAY, map, without: [s.place] };
    case 'strict':
      return { ...STAY, map, isStrict: true };
    case 'long':
      return /^[A-Za-z]:[\\/]./.test(s.path.trim())
        ? { ...STAY, map, to: `${s.path.trim()}\\${rootName}`, isCopy: true, isElsewhere: true, hasPathLimit: true }
        : null;
  }
}
/** What the machine's drives can be called in a scenario: letters, and shares where a place may be called one. */
export function drivesToName(drives: readonly DriveView[], kind: 'stick' | 'drive'): string[] {
  const letters = drives.flatMap((d) => /^[A-Za-z]:(?=[\\/]?$)/.exec(d.shown)?.[0] ?? []);
  const shares = kind === 'drive' ? drives.flatMap((d) => (d.share?.startsWith('\\\\') ? [d.share] : [])) : [];
  return [...new Set([...letters, ...shares])];
}

const isDrive = (text: string): boolean => /^[A-Za-z]:$/.test(text.trim());
