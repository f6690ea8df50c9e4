export { appended, extent, indexAt } from './curve';
export type { Columns, ContactRow, Pen } from './curve';
export { GUTTER_AXIS, GUTTER_LEFT, GUTTER_RIGHT, type TimeChartProps } from './strip';
export { TimeChart } from './TimeChart';
