export { fieldsOf, ListProblem, useProblems, type Bound } from './fields';
export { placeOf, ShownFields } from './shown';
export * as shapes from './shapes';
export { resolverOf, type Shape } from './shapes';
