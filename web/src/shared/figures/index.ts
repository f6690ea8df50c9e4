export { Explained } from './Explained';
export { COLUMNS, digitsOf, figureText, type Figure, type FigureColumn } from './figures';
