export { TimeRail } from './TimeRail';
export type { RailMark } from './Marks';
export { railStore, useRailContents, type CoverageBar, type RailContents, type RailGap } from './railStore';
export { stretchOf, withoutGaps } from './stretch';
