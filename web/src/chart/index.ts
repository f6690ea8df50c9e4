export { appended, extent, indexAt, isBad, isUncertain } from './curve';
export type { Columns, ContactRow, Pen } from './curve';
export { GUTTER_LEFT, GUTTER_RIGHT, TimeChart } from './TimeChart';
