export { sheetsQuery } from './queries';
export { TrendPage } from './TrendPage';
export type { ShellRequest } from './TrendPage';
