/** The sections that exist; more follow as they are built. */
export const SECTIONS = [
  { path: '/trends', name: 'Trends' },
  { path: '/statistics', name: 'Statistics' },
  { path: '/records', name: 'Records' },
  { path: '/runs', name: 'Runs' },
  { path: '/setup', name: 'Set-up' },
] as const;
