export { TrendPage } from './TrendPage';
export type { ShellRequest } from './TrendPage';
