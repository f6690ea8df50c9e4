/** The parts of the set-up, in the order in which a plant is set up. */
export const PARTS = [
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
