export {
  Choice,
  ClockLine,
  DurationLine,
  NumberLine,
  OptionalNumberLine,
  TextLine,
  type Typed,
} from './fields/lines';
export { Switched } from './fields/Switched';
export { hasUnusable } from './fields/unusable';
export { Details, FormActions, Panel, Told } from './Panel';
export { Offered, useRefusal } from './access';
export { Boundary, Failed } from './Boundary';
export { NoSuchPage } from './NoSuchPage';
export { CopyButton } from './CopyButton';
export { InnerForm } from './InnerForm';
export { Removal } from './Removal';
export { copyParams, UnsavedGuard, useLeave, useOpen, useUnsaved } from './Unsaved';
export { DataTable, type Choosing, type Column } from './table/DataTable';
export { LongTable } from './table/LongTable';
export { Pairs } from './fields/Pairs';
export { TagLines } from './TagLines';
