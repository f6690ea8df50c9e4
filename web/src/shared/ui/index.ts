export { Choice, DurationLine, NumberLine, Switched, TextLine } from './fields';
export { Facts, FormActions, Panel, Told } from './Panel';
export { DataTable, type Column } from './DataTable';
export { Pairs } from './Pairs';
export { TagChoice } from './TagChoice';
export { FormulaFields } from './FormulaFields';
