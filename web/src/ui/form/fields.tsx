/** Fields that belong to a form: each shows and changes the value at a path of it, and says what is wrong there. */
import { useEffect, type ReactElement } from 'react';
import { get, useController, useFormState, type FieldPath, type FieldValues } from 'react-hook-form';
import {
  Choice,
  ClockLine,
  DurationLine,
  NumberLine,
  OptionalNumberLine,
  TextLine,
  type LineProps,
  type Typed,
} from '../fields/lines';
import { Switched } from '../fields/Switched';
import { ReadOnly } from '../access';
import { Told } from '../Panel';
import { useShownFields } from './shown';

export interface Bound<T> {
  value: T;
  onChange: (value: T) => void;
  /** What is wrong with it: by its shape, or by the server. */
  problem: string | undefined;
}

interface BoundProps<T> {
  name: string;
  children: (bound: Bound<T>) => ReactElement | null;
}

/** A part of any kind, bound to a path. */
function BoundPart<T>({ name, children }: BoundProps<T>): ReactElement | null {
  const { field, fieldState } = useController({ name });
  useIsShown(name);
  const part = children({
    value: field.value as T,
    onChange: field.onChange,
    problem: fieldState.error?.message,
  });
  return part === null ? null : <ReadOnly>{part}</ReadOnly>;
}

interface TextProps {
  placeholder?: string;
  autoFocus?: boolean;
  hidden?: boolean;
  fills?: string;
  multiline?: boolean;
}

type Line<F extends FieldValues> = Omit<LineProps, 'problem'> & { name: FieldPath<F> };

/** The fields of a form of this shape. */
export interface FieldsOf<F extends FieldValues> {
  Part: <T>(props: {
    name: FieldPath<F>;
    children: (bound: Bound<T>) => ReactElement | null;
  }) => ReactElement;
  Text: (props: Line<F> & TextProps) => ReactElement;
  Number: (props: Line<F>) => ReactElement;
  /** A number, or null where the field is empty. */
  OptionalNumber: (props: Line<F>) => ReactElement;
  /** µs; `none`: what an empty field means. */
  Duration: (props: Line<F> & { none?: string }) => ReactElement;
  /** Minutes of a day. */
  Clock: (props: Line<F>) => ReactElement;
  Choice: (props: Line<F> & { options: readonly { value: string; label: string }[] }) => ReactElement;
  Switch: (props: { name: FieldPath<F>; label: string }) => ReactElement;
}

const FIELDS: FieldsOf<FieldValues> = {
  Part: (props) => <BoundPart {...props} />,
  Text: ({ name, ...line }) => (
    <BoundPart<string> name={name}>{(bound) => <TextLine {...line} {...bound} />}</BoundPart>
  ),
  Number: ({ name, ...line }) => (
    <BoundPart<Typed> name={name}>
      {(bound) => <NumberLine {...line} {...bound} onMistyped={bound.onChange} />}
    </BoundPart>
  ),
  OptionalNumber: ({ name, ...line }) => (
    <BoundPart<Typed | null> name={name}>
      {(bound) => <OptionalNumberLine {...line} {...bound} onMistyped={bound.onChange} />}
    </BoundPart>
  ),
  Duration: ({ name, ...line }) => (
    <BoundPart<Typed> name={name}>
      {(bound) => <DurationLine {...line} {...bound} onMistyped={bound.onChange} />}
    </BoundPart>
  ),
  Clock: ({ name, ...line }) => (
    <BoundPart<Typed> name={name}>
      {(bound) => <ClockLine {...line} {...bound} onMistyped={bound.onChange} />}
    </BoundPart>
  ),
  Choice: ({ name, ...line }) => (
    <BoundPart<string | null> name={name}>
      {(bound) => <Choice {...line} {...bound} value={bound.value ?? ''} />}
    </BoundPart>
  ),
  Switch: ({ name, label }) => (
    <BoundPart<boolean> name={name}>
      {({ value, onChange }) => <Switched label={label} value={value} onChange={onChange} />}
    </BoundPart>
  ),
};

export function fieldsOf<F extends FieldValues>(): FieldsOf<F> {
  return FIELDS as unknown as FieldsOf<F>;
}

function isSaid(error: unknown): error is { message: string } {
  return (
    typeof error === 'object' && error !== null && 'message' in error && typeof error.message === 'string'
  );
}

/** What is wrong at paths of the form: for parts that show several values. */
export function useProblems(): (path: string) => string | undefined {
  const { errors } = useFormState();
  return (path) => {
    const error: unknown = get(errors, path);
    return isSaid(error) ? error.message : undefined;
  };
}

/** What is wrong with a list as a whole. */
export function ListProblem({ name }: { name: string }): ReactElement | null {
  const problemAt = useProblems();
  useIsShown(name);
  const problem = problemAt(`${name}.root`) ?? problemAt(name);
  return problem === undefined ? null : <Told kind="error">{problem}</Told>;
}

function useIsShown(name: string): void {
  const shown = useShownFields();
  useEffect(() => {
    shown.add(name);
    return () => void shown.delete(name);
  }, [shown, name]);
}
