export { TimeRail } from './TimeRail';
export type { CoverageBar } from './TimeRail';
