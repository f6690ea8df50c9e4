/** A statistic as a tag: which one, and over which window that moves on. */
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { SECOND } from '../../../domain/time';
import { Choice, DurationLine, NumberLine, Pairs } from '../../../ui';
import { withField } from '../common/choices';
import { text, typedOf, type Address, type Fields } from '../common/protocols';
import { COLUMNS } from '../../../entities/figureTexts';

interface StatisticFieldsProps {
  address: Address;
  onChange: (address: Address) => void;
}

const STATISTICS = [
  ...COLUMNS.map(({ stat, label }) => ({ value: stat, label })),
  { value: 'Percentile', label: wording.percentile },
];
const WINDOWS = [
  { value: 'last', label: wording.theLastLength },
  { value: 'hour', label: wording.thisHour },
  { value: 'shift', label: wording.thisShift },
  { value: 'day', label: wording.today },
];
const FIRST_S = 1800;

export function StatisticFields({ address, onChange }: StatisticFieldsProps): ReactElement {
  const fields: Fields = address;
  const { window } = fields;
  const named = WINDOWS.some((one) => one.value === window);
  const length = named ? null : typedOf(window, FIRST_S);
  const put = (name: string) => (value: unknown) => onChange(withField(address, name, value));
  const figure = text(fields['figure']);
  const choose = (next: string): void => {
    const { percent, ...others } = fields;
    const more = next === 'Percentile' ? { percent: percent ?? 95 } : {};
    onChange({ ...others, figure: next, ...more } as Address);
  };
  return (
    <>
      <Choice
        label={wording.whichOne}
        value={figure}
        options={STATISTICS}
        onChange={choose}
        {...(figure === 'DurationInStateNonZero' ? { hint: wording.inMs } : {})}
      />
      {figure === 'Percentile' && (
        <NumberLine
          label={common.percent}
          value={typedOf(fields['percent'], 95)}
          onChange={put('percent')}
          onMistyped={put('percent')}
        />
      )}
      <Pairs>
        <Choice
          label={wording.over}
          value={length === null ? text(window) : 'last'}
          options={WINDOWS}
          onChange={(next) => onChange(withField(address, 'window', next === 'last' ? FIRST_S : next))}
        />
        {length !== null && (
          <DurationLine
            label={common.length}
            value={typeof length === 'number' ? length * SECOND : length}
            onChange={(us) => put('window')(us / SECOND)}
            onMistyped={put('window')}
          />
        )}
      </Pairs>
    </>
  );
}
