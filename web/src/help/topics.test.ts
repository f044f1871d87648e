import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { COMMANDS } from '../frame/commands';
import { topicOf, TOPICS, topicsWith } from './topics';

describe('help for every page', () => {
  const routes = readFileSync(new URL('../routes.tsx', import.meta.url), 'utf8');
  const paths = [...routes.matchAll(/path: '([^']+)'/g)].map(([, path]) => path!).filter((p) => !['*', '/p/:key', '/help'].includes(p));
  test.each(paths.filter((p) => !p.startsWith('/mend')))('%s has a topic', (path) => {
    const topic = topicOf(path.startsWith('/') ? path : `/p/k/${path}`, '');
    expect(topic?.at.path).toBe(path);
    expect(topic!.steps.length).toBeGreaterThan(0);
    expect(topic!.troubles.length).toBeGreaterThan(0);
  });
  test('each view of a stop its own, where it has one', () => {
    expect(topicOf('/p/k/sources', '?view=links')?.id).toBe('links');
    expect(topicOf('/p/k/folders', '?view=names')?.id).toBe('folders');
    expect(topicOf('/p/k/nowhere', '')).toBeNull();
  });
  test('every topic stands at a page that is there, under one id', () => {
    expect(new Set(TOPICS.map((t) => t.id)).size).toBe(TOPICS.length);
    for (const { at } of TOPICS) expect(paths).toContain(at.path);
  });
  test('found by words of any part of it', () => {
    expect(topicsWith('stick letter').map((t) => t.id)).toContain('places');
    expect(topicsWith('zzz')).toEqual([]);
    expect(topicsWith('')).toHaveLength(TOPICS.length);
  });
  test('what can be done leads to a page that is there', () => {
    for (const { to } of COMMANDS) expect(paths).toContain(to.split('?')[0]!.replace('/p/:key/', ''));
  });
});
