/** A pen that is no tag: calculated over history as it is looked at, or a point for each record of a logger. */
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { useWatch, type UseFormReturn } from 'react-hook-form';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { errorText } from '../../../platform/errors';
import { Choice, FormActions, Pairs, Panel, Told, type Typed } from '../../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../../ui/form';
import type { MadePen } from '../model/made';
import { FormulaFields } from '../../../entities/FormulaFields';
import { recordColumnsQuery, recordLoggersQuery } from '../../../entities/records';

interface MadePanelProps {
  /** What it was; nothing: a new one. */
  pen: MadePen | null;
  onSave: (pen: MadePen) => void;
  onClose: () => void;
}

const NEW: MadePen = {
  name: '',
  unit: '',
  low: 0,
  high: 100,
  formula: '',
  inputs: {},
  logger: '',
  column: 0,
};
const KINDS = [
  { value: 'formula', label: wording.aFormulaOverTags },
  { value: 'records', label: wording.recordsOfALogger },
];

interface Made extends Omit<MadePen, 'low' | 'high'> {
  kind: string;
  low: Typed;
  high: Typed;
}
const Fields = fieldsOf<Made>();
const SHAPE = shapes.shape(
  { name: shapes.filled(wording.giveThePenAName), low: shapes.number, high: shapes.number },
  problemsOf,
);

/** What is wrong with fields beside each other. */
function problemsOf({ kind, formula, logger, low, high }: Made): Record<string, string> {
  return {
    ...(low >= high ? { low: wording.theLowerEndHasToBe } : {}),
    ...(kind === 'formula' && formula.trim() === '' ? { formula: wording.typeAFormula } : {}),
    ...(kind === 'records' && logger === '' ? { logger: common.chooseALogger } : {}),
  };
}

export function MadePanel({ pen, onSave, onClose }: MadePanelProps): ReactElement {
  const made = useSentForm<Made, unknown>({
    values: { ...(pen ?? NEW), kind: (pen ?? NEW).logger === '' ? 'formula' : 'records' },
    shape: SHAPE,
    send: ({ kind, low, high, ...others }) =>
      onSave({
        ...others,
        low: Number(low),
        high: Number(high),
        ...(kind === 'formula' ? { logger: '' } : { formula: '' }),
      }),
    stays: true,
  });
  const kind = useWatch({ control: made.form.control, name: 'kind' });
  return (
    <FormFields of={made}>
      <Panel
        title={pen === null ? wording.newPen : pen.name}
        onClose={onClose}
        onSubmit={made.onSubmit}
        width={300}
      >
        <Fields.Choice name="kind" label={wording.madeFrom} options={KINDS} />
        {kind === 'formula' ? <Formula /> : <RecordFields form={made.form} />}
        <Fields.Text name="name" label={wording.nameOfThePen} placeholder={wording.differenceOfZones1And2} />
        <Fields.Text name="unit" label={common.unit} placeholder={common.none} />
        <Pairs>
          <Fields.Number name="low" label={common.from} />
          <Fields.Number name="high" label={common.to} />
        </Pairs>
        <FormActions save={pen === null ? common.add : common.save} busy={made.busy}>
          <Button size="small" onClick={onClose}>
            {common.cancel}
          </Button>
        </FormActions>
      </Panel>
    </FormFields>
  );
}

/** A formula, and which tags its names are. */
function Formula(): ReactElement {
  return (
    <Fields.Part<MadePen['inputs']> name="inputs">
      {(inputs) => (
        <Fields.Part<string> name="formula">
          {({ value, onChange, problem }) => (
            <FormulaFields
              formula={value}
              inputs={inputs.value}
              onFormula={onChange}
              onInput={(name, uid) => inputs.onChange(withInput(inputs.value, name, uid))}
              problem={problem}
            />
          )}
        </Fields.Part>
      )}
    </Fields.Part>
  );
}

function withInput(
  inputs: MadePen['inputs'],
  name: string,
  uid: string | null,
): Readonly<Record<string, string>> {
  const others = Object.fromEntries(Object.entries(inputs).filter(([key]) => key !== name));
  return uid === null ? others : { ...others, [name]: uid };
}

/** A logger that takes records, and which of their columns is drawn. */
function RecordFields({ form }: { form: UseFormReturn<Made> }): ReactElement {
  const { data: loggers = [], error } = useQuery(recordLoggersQuery);
  const [logger, name] = useWatch({ control: form.control, name: ['logger', 'name'] });
  const { data: columns = [] } = useQuery(recordColumnsQuery(logger));
  const numbers = columns.filter((one) => one.value_type !== 'text');
  const choose = (value: string): void => {
    const column = numbers.find((one) => String(one.number) === value);
    if (column === undefined) return;
    form.setValue('column', column.number);
    form.setValue('unit', column.unit);
    if (name === '') form.setValue('name', column.name);
  };
  if (error !== null) return <Told kind="error">{errorText(error)}</Told>;
  if (loggers.length === 0) return <Told>{wording.noLoggerTakesRecordsYetThe}</Told>;
  return (
    <>
      <Fields.Part<string> name="logger">
        {({ value, onChange, problem }) => (
          <Choice
            label={common.logger}
            value={value}
            options={loggers.map((one) => ({ value: one.uid, label: `${one.name} (${one.records})` }))}
            onChange={(next) => {
              onChange(next);
              form.setValue('column', 0);
            }}
            problem={problem}
          />
        )}
      </Fields.Part>
      <Fields.Part<number> name="column">
        {({ value }) => (
          <Choice
            label={wording.column}
            value={String(value)}
            options={numbers.map((one) => ({ value: String(one.number), label: one.name }))}
            onChange={choose}
          />
        )}
      </Fields.Part>
    </>
  );
}
