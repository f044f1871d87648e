import { expect, type Page } from '@playwright/test';
import { join } from 'node:path';

export const folder = process.env['ROOTMAP_E2E_FOLDER']!;
export const desk = (...parts: string[]): string => join(folder, 'places', 'desk', 'gis', ...parts);

/** The project's page of a stop, by its title. */
export async function openStop(page: Page, title: string, stop: string): Promise<void> {
  const projects = (await (await page.request.get('/api/projects')).json()) as { key: string; title: string; place: string }[];
  // A received copy has the same title; what the tests are about stands on the desk.
  const project = projects.find((p) => p.title === title && p.place === 'desk');
  expect(project, `${title} is on the list`).toBeTruthy();
  await page.goto(`/p/${project!.key}/${stop}`);
}
export const STUDY = 'Ellisande seagrass and moorings';
/** What axe checks: WCAG 2.2, levels A and AA. */
export const WCAG = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'];
