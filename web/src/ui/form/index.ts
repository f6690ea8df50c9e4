export { fieldsOf, ListProblem, useProblems, type Bound } from './fields';
export { placeOf, ShownFields } from './shown';
export * as shapes from './shapes';
export { resolverOf, type Shape } from './shapes';
export { FormFields, InnerFields } from './FormFields';
export { useSentForm, type SentForm } from './useSentForm';
export { useSubmission } from './useSubmission';
