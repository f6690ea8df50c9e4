export { Explained } from './Explained';
export {
  COLUMNS,
  digitsOf,
  figureText,
  goodText,
  sharedGap,
  type Figure,
  type FigureColumn,
} from './figures';
