export { appended, extent, indexAt } from './curve';
export type { Columns, ContactRow, Pen } from './curve';
export {
  GUTTER_AXIS,
  GUTTER_LEFT,
  GUTTER_RIGHT,
  plotRows,
  valueAt,
  type ChartInk,
  type ChartLook,
  type TimeChartProps,
} from './strip';
export { TimeChart } from './TimeChart';
