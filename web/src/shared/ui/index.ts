export { Choice, DurationLine, NumberLine, OptionalNumberLine, Switched, TextLine } from './fields';
export { hasUnusable } from './unusable';
export { Facts, FormActions, Panel, Told } from './Panel';
export { DataTable, type Column } from './DataTable';
export { Pairs } from './Pairs';
export { TagChoice } from './TagChoice';
export { FormulaFields } from './FormulaFields';
