import { expect, test } from '@jest/globals';
import { drivesToName, firstScenario, requestOf, SCENARIO_WORDS, type ScenarioKind } from './scenario';

const kinds = Object.keys(SCENARIO_WORDS) as ScenarioKind[];

test('every scenario but the one that waits for a folder can be worked out at once', () => {
  for (const kind of kinds)
    expect([kind, requestOf(firstScenario(kind, [], 'desk'), null, 'study') === null]).toEqual([kind, kind === 'move']);
});
test('a copy on a stick is opened elsewhere, under its own name', () => {
  expect(requestOf({ kind: 'stick', drive: ' G: ' }, 'maps/a.owc.json', 'study')).toMatchObject({
    map: 'maps/a.owc.json',
    to: 'G:\\study',
    isCopy: true,
    isElsewhere: true,
    hasPathLimit: false,
  });
});
test('a move goes below the folder that was chosen, or to the top of its place', () => {
  const into = (path: string) => requestOf({ kind: 'move', to: { place: 'desk', path } }, null, 'study')?.to;
  expect([into('old/jobs'), into('')]).toEqual([
    { place: 'desk', path: 'old/jobs/study' },
    { place: 'desk', path: 'study' },
  ]);
});
test('what is no drive and no path is not asked', () => {
  expect(['G', 'G:\\', '', '7:'].map((drive) => requestOf({ kind: 'stick', drive }, null, 's'))).toEqual([null, null, null, null]);
  expect(requestOf({ kind: 'drive', place: 'share', drive: '\\\\server\\gis' }, null, 's')).toMatchObject({
    drives: [{ place: 'share', names: ['\\\\server\\gis'] }],
  });
  expect(requestOf({ kind: 'long', path: 'relative\\path' }, null, 's')).toBeNull();
});

test('the drives of the machine are offered: letters, and shares where a place may be called one', () => {
  const drive = (shown: string, share: string | null = null) => ({
    folder: shown,
    shown,
    kind: 'fixed' as const,
    label: null,
    share,
    isSystem: false,
  });
  const drives = [drive('C:\\'), drive('E:'), drive('Z:\\', '\\\\harbour\\gis'), drive('/media/stick'), drive('C:\\')];
  expect(drivesToName(drives, 'stick')).toEqual(['C:', 'E:', 'Z:']);
  expect(drivesToName(drives, 'drive')).toEqual(['C:', 'E:', 'Z:', '\\\\harbour\\gis']);
});
