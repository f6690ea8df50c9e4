/** The rule of an on-change logger. */
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-loggers.json';
import { Choice, DurationLine, NumberLine, Pairs, Switched } from '../../../ui';
import { fieldsOf, shapes, useProblems } from '../../../ui/form';
import type { Rule } from '../../../entities/loggers';

const { duration, number, optional } = shapes;
/** What of a rule can be mistyped. */
export const RULE_SHAPE = shapes.shape({
  width: optional(number),
  rate_limit_us: optional(duration),
  longest_silence_us: optional(duration),
});

/** Where the server's names of its parts are said. */
export const RULE_PLACES = {
  width: 'rule.width',
  largest_error: 'rule.width',
  deadband: 'rule.width',
  rate_limit: 'rule.rate_limit_us',
  keep_extremes: 'rule.rate_limit_us',
  longest_silence: 'rule.longest_silence_us',
  rule: 'rule.kind',
};

export const FIRST_RULE: Rule = {
  kind: 'change',
  width: 0,
  of_range: false,
  rate_limit_us: 0,
  keep_extremes: false,
  stamp_kept: false,
  longest_silence_us: 0,
};

interface RuleFieldsProps {
  rule: Rule;
  onChange: (rule: Rule) => void;
  /** What is wrong with a part of it, by the part's name. */
  problem?: (field: string) => string | undefined;
}

export function RuleFields({ rule, onChange, problem = () => undefined }: RuleFieldsProps): ReactElement {
  const set = (name: keyof Rule) => (value: unknown) => onChange({ ...rule, [name]: value });
  const line = rule.kind === 'line';
  return (
    <>
      <Choice
        label={wording.storeAValue}
        value={rule.kind}
        options={[
          { value: 'change', label: wording.onChangeWithDeadband },
          { value: 'line', label: wording.byLinearCompression },
        ]}
        onChange={(kind) =>
          onChange(
            kind === 'line'
              ? { ...FIRST_RULE, kind: 'line', width: rule.width === 0 ? 0.1 : rule.width }
              : { ...FIRST_RULE, width: rule.width },
          )
        }
        problem={problem('kind')}
      />
      <Pairs>
        <NumberLine
          label={line ? wording.largestError : wording.deadband}
          value={rule.width}
          onChange={set('width')}
          onMistyped={set('width')}
          problem={problem('width')}
        />
        <Choice
          label={wording.givenIn}
          value={rule.of_range ? 'range' : 'unit'}
          options={[
            { value: 'unit', label: wording.theTagsUnit },
            { value: 'range', label: wording.percentOfItsRange },
          ]}
          onChange={(value) => set('of_range')(value === 'range')}
        />
        {!line && (
          <DurationLine
            label={wording.rateLimitAtMostOneIn}
            none={common.none}
            value={rule.rate_limit_us}
            onChange={(us) =>
              onChange({
                ...rule,
                rate_limit_us: us,
                ...(us === 0 ? { keep_extremes: false, stamp_kept: false } : {}),
              })
            }
            onMistyped={set('rate_limit_us')}
            problem={problem('rate_limit_us')}
          />
        )}
        <DurationLine
          label={wording.longestSilence}
          none={common.none}
          value={rule.longest_silence_us}
          onChange={set('longest_silence_us')}
          onMistyped={set('longest_silence_us')}
          problem={problem('longest_silence_us')}
        />
      </Pairs>
      {!line && rule.rate_limit_us > 0 && (
        <>
          <Switched
            label={wording.keepExtremesStoreMinAndMax}
            value={rule.keep_extremes}
            onChange={set('keep_extremes')}
          />
          <Switched
            label={wording.giveAHeldValueTheTime}
            value={rule.stamp_kept}
            onChange={set('stamp_kept')}
          />
        </>
      )}
    </>
  );
}

const Fields = fieldsOf<{ rule: Rule }>();

/** The rule of a form that has one, with what is wrong with its parts; `below`: what follows it. */
export function RulePart({ below }: { below?: (rule: Rule) => ReactElement }): ReactElement {
  const problemAt = useProblems();
  return (
    <Fields.Part<Rule> name="rule">
      {({ value, onChange }) => (
        <>
          <RuleFields
            key={value.kind}
            rule={value}
            onChange={onChange}
            problem={(part) => problemAt(`rule.${part}`)}
          />
          {below?.(value)}
        </>
      )}
    </Fields.Part>
  );
}
