export { sheetLink } from './page/sheetLink';
export { TrendPage } from './page/TrendPage';
export type { ShellRequest } from './page/useAddedTag';
