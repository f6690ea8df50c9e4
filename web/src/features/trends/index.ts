export { sheetLink } from './sheetLink';
export { TrendPage } from './TrendPage';
export type { ShellRequest } from './TrendPage';
