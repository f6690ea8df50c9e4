/** A limit: a number, or none. */
import { useState, type ReactElement } from 'react';
import { TextLine } from '../../shared/ui';

interface LimitLineProps {
  label: string;
  value: number | null;
  onChange: (value: number | null) => void;
}

export function LimitLine({ label, value, onChange }: LimitLineProps): ReactElement {
  const [text, setText] = useState(value === null ? '' : String(value));
  const typed = numberOf(text);
  return (
    <TextLine
      label={label}
      value={typed === value || Number.isNaN(typed) ? text : value === null ? '' : String(value)}
      placeholder="none"
      problem={Number.isNaN(typed) ? 'This is not a number.' : undefined}
      onChange={(next) => {
        setText(next);
        const number = numberOf(next);
        if (!Number.isNaN(number)) onChange(number);
      }}
    />
  );
}

/** Nothing is null, what is not a number is NaN. */
function numberOf(text: string): number | null {
  return text.trim() === '' ? null : Number(text.replace(',', '.'));
}
