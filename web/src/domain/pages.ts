/** The pages there are: their addresses and names. */

/** The sections of the top bar; more follow as they are built. `hasWindow`: they show a window of time. */
export const SECTIONS = [
  { path: '/trends', name: 'Trends', hasWindow: true },
  { path: '/statistics', name: 'Statistics', hasWindow: true },
  { path: '/samples', name: 'Samples', hasWindow: true },
  { path: '/records', name: 'Records', hasWindow: true },
  { path: '/runs', name: 'Runs', hasWindow: true },
  { path: '/setup', name: 'Set-up', hasWindow: false },
] as const;

/** The parts of the set-up, in the order in which a plant is set up. */
export const SETUP_PARTS = [
  ['recorder', 'Recorder'],
  ['sources', 'Sources'],
  ['tags', 'Tags'],
  ['loggers', 'Loggers'],
  ['equipment', 'Equipment'],
  ['archives', 'Archives'],
  ['runs', 'Runs'],
  ['plant', 'Plant'],
  ['changes', 'Changes'],
] as const;

export interface PageLink {
  path: string;
  name: string;
}

/** Every page that has an address of its own, for who looks for one by its name. */
export const PAGES: readonly PageLink[] = [
  ...SECTIONS.filter(({ path }) => path !== '/setup'),
  { path: '/files', name: 'Files made in the background' },
  ...SETUP_PARTS.map(([path, name]) => ({ path: `/setup/${path}`, name: `Set-up: ${name}` })),
  { path: '/setup/tags/import', name: 'Set-up: Import tags' },
];
