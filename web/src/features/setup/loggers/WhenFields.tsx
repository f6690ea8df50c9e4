/** What a logger's wanted state and interval follow beside a person. */
import { Add, Close } from '@mui/icons-material';
import { Box, Button, IconButton, ToggleButton, ToggleButtonGroup } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-loggers.json';
import { ClockLine, Told, type Typed } from '../../../ui';
import { TagChoice } from '../../../entities/TagChoice';
import type { LoggerIn } from '../../../entities/loggers';

export type When = NonNullable<LoggerIn['when']>;
type Span = NonNullable<When['spans']>[number];
export const NO_WHEN: When = { tag: null, spans: [], interval_tag: null };
const DAYS = [wording.mo, wording.tu, wording.we, wording.th, wording.fr, wording.sa, wording.su];

interface WhenFieldsProps {
  when: When;
  /** By the clock: its interval may come from a tag. */
  clock: boolean;
  onChange: (when: When) => void;
  /** What is wrong with its schedule. */
  problem: string | undefined;
}

export function WhenFields({ when, clock, onChange, problem }: WhenFieldsProps): ReactElement {
  const spans = when.spans;
  const put = (i: number, span: Span | null): void =>
    onChange({
      ...when,
      spans: spans.flatMap((one, k) => (k === i ? (span === null ? [] : [span]) : [one])),
    });
  return (
    <>
      {clock && (
        <TagChoice
          label={wording.itsIntervalInSecondsComesFrom}
          value={when.interval_tag ?? null}
          none={wording.noTagTheOneAbove}
          onChange={(interval_tag) => onChange({ ...when, interval_tag })}
        />
      )}
      <TagChoice
        label={wording.recordsOnlyWhile}
        value={when.tag ?? null}
        none={wording.regardlessOfAnyTag}
        onChange={(tag) => onChange({ ...when, tag })}
      />
      {spans.map((span, i) => (
        <SpanFields key={i} span={span} onChange={(next) => put(i, next)} />
      ))}
      {problem !== undefined && <Told kind="error">{problem}</Told>}
      <Box>
        <Button
          size="small"
          startIcon={<Add />}
          onClick={() =>
            onChange({
              ...when,
              spans: [...spans, { days: [1, 2, 3, 4, 5], start_minute: 360, end_minute: 1320 }],
            })
          }
        >
          {spans.length === 0 ? wording.recordByASchedule : wording.addATimeRangeOfThe}
        </Button>
      </Box>
    </>
  );
}

interface SpanFieldsProps {
  span: Span;
  onChange: (span: Span | null) => void;
}

function SpanFields({ span, onChange }: SpanFieldsProps): ReactElement {
  // A text that is no time of day is refused by the form.
  const put = (name: 'start_minute' | 'end_minute') => (value: Typed) => onChange({ ...span, [name]: value });
  return (
    <Box sx={{ display: 'flex', flexWrap: 'wrap', alignItems: 'center', gap: 1 }}>
      <ToggleButtonGroup
        size="small"
        aria-label={wording.daysOfTheWeek}
        value={span.days}
        onChange={(_, days: number[]) => {
          if (days.length > 0) onChange({ ...span, days });
        }}
      >
        {DAYS.map((name, i) => (
          <ToggleButton
            key={name}
            value={i + 1}
            sx={{ typography: 'caption', px: 0.75, py: 0.25, textTransform: 'none' }}
          >
            {name}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <Box sx={{ width: 64 }}>
        <ClockLine
          label={wording.from}
          value={span.start_minute}
          onChange={put('start_minute')}
          onMistyped={put('start_minute')}
        />
      </Box>
      <Box sx={{ width: 64 }}>
        <ClockLine
          label={common.to}
          value={span.end_minute}
          onChange={put('end_minute')}
          onMistyped={put('end_minute')}
        />
      </Box>
      <IconButton size="small" aria-label={wording.removeThisTimeRange} onClick={() => onChange(null)}>
        <Close fontSize="small" />
      </IconButton>
    </Box>
  );
}
