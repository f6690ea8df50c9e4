/** What one tag of a logger has of its own: a rule, an inhibit tag, a name for its column. */
import { Box, Button, FormHelperText, InputBase, Typography } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-loggers.json';
import { fill } from '../../../domain/fill';
import { Told, Offered } from '../../../ui';
import { fieldsOf, InnerFields, shapes, useSentForm } from '../../../ui/form';
import { loggerBody, loggerForm, type LoggerForm } from './loggerForm';
import { RULE_PLACES, RULE_SHAPE, RulePart } from './RuleFields';
import { useAskAnew, useSave } from '../common/useSave';
import { TagChoice } from '../../../entities/TagChoice';
import {
  saveLogger,
  type Logger,
  type OnChangeLogger,
  type Rule,
  type TriggeredLogger,
} from '../../../entities/loggers';

interface OwnPartProps {
  title: string;
  problem: string | null;
  /** Buttons before the one that closes it. */
  actions: ReactNode;
  onClose: () => void;
  children: ReactNode;
}

/** What is one member's own, below the list. */
function OwnPart({ title, problem, actions, onClose, children }: OwnPartProps): ReactElement {
  return (
    <Box
      role="group"
      aria-label={title}
      sx={{ display: 'flex', flexDirection: 'column', gap: 1.5, border: 1, borderColor: 'divider', p: 1.5 }}
    >
      <Typography variant="subtitle2">{title}</Typography>
      {children}
      {problem !== null && <Told kind="error">{problem}</Told>}
      <Box sx={{ display: 'flex', gap: 1 }}>
        {actions}
        <Button size="small" onClick={onClose}>
          {common.close}
        </Button>
      </Box>
    </Box>
  );
}

interface OwnRuleProps<T = Logger> {
  logger: T;
  uid: string;
  name: string;
  onDone: () => void;
}

interface Own {
  rule: Rule;
}
const OWN = shapes.shape({ rule: RULE_SHAPE });

/** A rule of one member's own: one deadband for tags of different units makes no sense. */
export function OwnRule({ logger, uid, name, onDone }: OwnRuleProps<OnChangeLogger>): ReactElement {
  const known = logger.overrides?.[uid];
  const askAnew = useAskAnew();
  const save = (wanted: Rule | null): Promise<Logger> =>
    change(logger, { overrides: withOwn(logger.overrides, uid, wanted) });
  const saving = useSentForm({
    values: { rule: known ?? logger.rule },
    shape: OWN,
    send: ({ rule }: Own) => save(rule),
    onDone: () => askAnew().then(onDone),
    stays: true,
    also: RULE_PLACES,
  });
  const following = useSave(() => save(null), onDone);
  const busy = saving.busy || following.busy;
  return (
    <OwnPart
      title={fill(wording.ruleOfName, { name })}
      problem={following.general}
      onClose={onDone}
      actions={
        <>
          <Offered>
            {' '}
            <Button size="small" variant="outlined" disabled={busy} onClick={saving.send}>
              {wording.saveOverride}
            </Button>
          </Offered>
          {known !== undefined && (
            <Offered>
              {' '}
              <Button size="small" disabled={busy} onClick={() => following.run(null)}>
                {wording.removeOverride}
              </Button>
            </Offered>
          )}
        </>
      }
    >
      <InnerFields of={saving}>
        <RulePart />
      </InnerFields>
    </OwnPart>
  );
}

interface Inhibiting {
  inhibits: string | null;
}
const INHIBITING = shapes.shape({});
const InhibitingFields = fieldsOf<Inhibiting>();

/** A tag that holds one member off while it is on; the others go on being recorded. */
export function OwnInhibit({ logger, uid, name, onDone }: OwnRuleProps): ReactElement {
  const askAnew = useAskAnew();
  const saving = useSentForm<Inhibiting, Logger>({
    values: { inhibits: logger.inhibits?.[uid] ?? null },
    shape: INHIBITING,
    send: ({ inhibits }) => change(logger, { inhibits: withOwn(logger.inhibits, uid, inhibits) }),
    onDone: () => askAnew().then(onDone),
    stays: true,
  });
  return (
    <OwnPart
      title={fill(wording.inhibitTagOfName, { name })}
      problem={null}
      onClose={onDone}
      actions={
        <Offered>
          {' '}
          <Button size="small" variant="outlined" disabled={saving.busy} onClick={saving.send}>
            {wording.saveInhibitTag}
          </Button>
        </Offered>
      }
    >
      <InnerFields of={saving}>
        <InhibitingFields.Part<string | null> name="inhibits">
          {(tag) => <TagChoice label={wording.notRecordedWhile} none={wording.noTagOfItsOwn} {...tag} />}
        </InhibitingFields.Part>
      </InnerFields>
    </OwnPart>
  );
}

interface Column {
  columns: string;
}
const COLUMN = shapes.shape({});
const ColumnFields = fieldsOf<Column>();

/** The name of a record's column; it is saved by Enter, and when one leaves the field. */
export function ColumnName({
  logger,
  uid,
  name,
}: Omit<OwnRuleProps<TriggeredLogger>, 'onDone'>): ReactElement {
  const saving = useSentForm<Column, Logger>({
    values: { columns: logger.columns?.[uid] ?? '' },
    shape: COLUMN,
    send: ({ columns }) => change(logger, { columns: { ...logger.columns, [uid]: columns } }),
    onDone: useAskAnew(),
    stays: true,
  });
  const save = (): void => {
    if (saving.form.getFieldState('columns', saving.form.formState).isDirty) saving.send();
  };
  return (
    <InnerFields of={{ ...saving, send: save }}>
      <ColumnFields.Part<string> name="columns">
        {({ value, onChange, problem }) => (
          <Box>
            <InputBase
              value={value}
              placeholder={name}
              error={problem !== undefined}
              onChange={(event) => onChange(event.target.value)}
              onBlur={save}
              inputProps={{ 'aria-label': fill(wording.columnForName, { name }), maxLength: 100 }}
              sx={{ typography: 'caption', width: 130, borderBottom: 1, borderColor: 'divider' }}
            />
            {problem !== undefined && <FormHelperText error>{problem}</FormHelperText>}
          </Box>
        )}
      </ColumnFields.Part>
    </InnerFields>
  );
}

type OwnOf<T> = Readonly<Record<string, T>> | undefined;

/** What members have of their own, with another value for one; none: it follows the logger. */
function withOwn<T>(own: OwnOf<T>, uid: string, value: T | null): Record<string, T> {
  const others = Object.entries(own ?? {}).filter(([key]) => key !== uid);
  return Object.fromEntries(value === null ? others : [...others, [uid, value]]);
}

function change(logger: Logger, changes: Partial<LoggerForm>): Promise<Logger> {
  const form = { ...loggerForm(logger, []), ...changes };
  return saveLogger(logger.uid, loggerBody(form, logger.revision));
}
