import { Fragment, type ReactElement, type ReactNode } from 'react';
import { fill } from '../domain/fill';

/** A text of the catalogue with elements among its values: a name in bold, a link, a button within the sentence. */
export function Filled({
  text,
  values,
}: {
  text: string;
  values: Readonly<Record<string, ReactNode>>;
}): ReactElement {
  const plain = Object.entries(values).filter((one): one is [string, string | number] => isPlain(one[1]));
  const pieces = fill(text, Object.fromEntries(plain)).split(/\{(\w+)\}/);
  return (
    <>
      {pieces.map((piece, place) => (
        <Fragment key={place}>{place % 2 === 0 ? piece : values[piece]}</Fragment>
      ))}
    </>
  );
}

const isPlain = (value: ReactNode): value is string | number =>
  typeof value === 'string' || typeof value === 'number';
