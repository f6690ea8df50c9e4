/** A logger while it is edited: the fields of all modes, so that another mode can be tried and left again. */
import * as wording from 'texts/setup-loggers.json';
import { FIRST_RULE } from './RuleFields';
import { FIRST_TRIGGER } from './TriggerFields';
import { NO_WHEN } from './WhenFields';
import type { Archive } from '../../../entities/archives';
import type { Logger, LoggerIn } from '../../../entities/loggers';

export type Mode = Logger['mode'];
type Of<M extends Mode> = Extract<LoggerIn, { mode: M }>;
type Own<M extends Mode> = Omit<Of<M>, 'mode' | 'revision'>;

export type LoggerForm = Own<'periodic'> &
  Own<'on_change'> &
  Own<'on_trigger'> &
  Own<'around'> & {
    mode: Mode;
    /** What a new archive is called. */
    new_archive: string;
  };

/** In the place of an archive: one that is not there yet. */
export const NEW_ARCHIVE = 'new';

/** What a logger by the clock keeps. */
export const KEEPS = [
  { value: 'value', label: wording.valueAtTheScheduledTime },
  { value: 'mean', label: wording.meanSinceTheLastSample },
  { value: 'low', label: wording.minSinceTheLastSample },
  { value: 'high', label: wording.maxSinceTheLastSample },
];

const OWN: Record<Mode, readonly (keyof LoggerForm)[]> = {
  periodic: ['interval_us', 'phase_us', 'keeps', 'late_us'],
  on_change: ['rule', 'overrides'],
  on_trigger: ['trigger', 'columns'],
  around: ['trigger', 'before_us', 'after_us'],
};

function fresh(archive: string): LoggerForm {
  return {
    name: '',
    archive,
    new_archive: '',
    mode: 'on_change',
    interval_us: 1_000_000,
    phase_us: 0,
    keeps: 'value',
    late_us: 0,
    rule: FIRST_RULE,
    overrides: {},
    trigger: FIRST_TRIGGER,
    columns: {},
    before_us: 30_000_000,
    after_us: 30_000_000,
    tags: [],
    wanted: true,
    inhibit_tag: null,
    when: NO_WHEN,
    inhibits: {},
    sample_on: null,
  };
}

/** What a copy of a logger begins with: a tag is recorded into an archive by one logger, so its tags stay where they are. */
export function withoutTags(logger: Logger | null): Logger | null {
  if (logger === null) return null;
  const own = { overrides: {}, columns: {} };
  const kept = Object.fromEntries(Object.entries(own).filter(([name]) => name in logger));
  return { ...logger, ...kept, tags: [], inhibits: {} };
}

export function loggerForm(logger: Logger | null, archives: readonly Archive[]): LoggerForm {
  const usual = fresh(archives[0]?.uid ?? NEW_ARCHIVE);
  if (logger === null) return usual;
  return { ...usual, ...(Object.fromEntries(known(logger)) as Partial<LoggerForm>) };
}

function known(logger: Logger): [string, unknown][] {
  return Object.entries(logger).filter(([name]) => !['uid', 'revision', 'text'].includes(name));
}

/** What is sent: the fields of its mode beside those that all have. */
export function loggerBody(form: LoggerForm, revision?: number): LoggerIn {
  const own = new Set(OWN[form.mode]);
  const others = new Set(Object.values(OWN).flat());
  const fields = Object.entries(form).filter(([name]) => {
    const key = name as keyof LoggerForm;
    if (key === 'new_archive') return false;
    return own.has(key) || !others.has(key);
  });
  return Object.fromEntries([...fields, ['revision', revision ?? null]]) as unknown as LoggerIn;
}
