/** The pages there are: their addresses and names. */
import * as common from 'texts/common.json';
import * as wording from 'texts/domain.json';
import { fill } from './fill';

/** The sections of the top bar; more follow as they are built. `hasWindow`: they show a window of time. */
export const SECTIONS = [
  { path: '/trends', name: wording.trends, hasWindow: true },
  { path: '/statistics', name: common.statistics, hasWindow: true },
  { path: '/samples', name: common.samples, hasWindow: true },
  { path: '/records', name: common.records, hasWindow: true },
  { path: '/runs', name: common.runs, hasWindow: true },
  { path: '/setup', name: common.setUp, hasWindow: false },
] as const;

/** The parts of the set-up, in the order in which a plant is set up. */
export const SETUP_PARTS = [
  ['recorder', common.recorder],
  ['sources', common.sources],
  ['tags', common.tags],
  ['loggers', common.loggers],
  ['equipment', common.equipment],
  ['archives', common.archives],
  ['runs', common.runs],
  ['plant', common.plant],
  ['people', common.people],
  ['changes', common.changes],
] as const;

export interface PageLink {
  path: string;
  name: string;
}

/** Every page that has an address of its own, for who looks for one by its name. */
export const PAGES: readonly PageLink[] = [
  ...SECTIONS.filter(({ path }) => path !== '/setup'),
  { path: '/files', name: common.filesMadeInTheBackground },
  ...SETUP_PARTS.map(([path, name]) => ({ path: `/setup/${path}`, name: fill(wording.setUpName, { name }) })),
  { path: '/setup/tags/import', name: wording.setUpImportTags },
];
