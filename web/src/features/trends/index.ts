import type { BesidePage } from './page/BesidePage';

/** Two sheets side by side: few open it, so it is loaded apart. */
export const besidePage = async (): Promise<typeof BesidePage> =>
  (await import('./page/BesidePage')).BesidePage;
export { TrendPage } from './page/TrendPage';
export type { ShellRequest } from './page/useAddedTag';
