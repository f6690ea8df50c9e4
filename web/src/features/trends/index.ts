export { BesidePage } from './page/BesidePage';
export { TrendPage } from './page/TrendPage';
export type { ShellRequest } from './page/useAddedTag';
