/** A pen that is no tag: calculated over history as it is looked at, or a point for each record of a logger. */
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { errorText } from '../../../platform/errors';
import { Choice, FormActions, NumberLine, Pairs, Panel, TextLine, Told } from '../../../ui';
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
  { value: 'formula', label: 'a formula over tags' },
  { value: 'records', label: 'records of a logger' },
];

export function MadePanel({ pen, onSave, onClose }: MadePanelProps): ReactElement {
  const [made, setMade] = useState(pen ?? NEW);
  const [kind, setKind] = useState(made.logger === '' ? 'formula' : 'records');
  const change = (more: Partial<MadePen>): void => setMade({ ...made, ...more });
  const upside = made.low >= made.high ? 'The lower end has to be below the upper one.' : undefined;
  const source = kind === 'formula' ? made.formula.trim() !== '' : made.logger !== '';
  const ready = made.name.trim() !== '' && upside === undefined && source;
  return (
    <Panel
      title={pen === null ? 'New pen' : pen.name}
      onClose={onClose}
      onSubmit={() =>
        ready && onSave({ ...made, ...(kind === 'formula' ? { logger: '' } : { formula: '' }) })
      }
      width={300}
    >
      <Choice label="Made from" value={kind} options={KINDS} onChange={setKind} />
      {kind === 'formula' ? (
        <FormulaFields
          formula={made.formula}
          inputs={made.inputs}
          onFormula={(formula) => change({ formula })}
          onInput={(name, uid) => change({ inputs: withInput(made.inputs, name, uid) })}
        />
      ) : (
        <RecordFields made={made} onChange={change} />
      )}
      <TextLine
        label="Name of the pen"
        value={made.name}
        placeholder="Difference of zones 1 and 2"
        onChange={(name) => change({ name })}
      />
      <TextLine label="Unit" value={made.unit} placeholder="none" onChange={(unit) => change({ unit })} />
      <Pairs>
        <NumberLine label="From" value={made.low} problem={upside} onChange={(low) => change({ low })} />
        <NumberLine label="to" value={made.high} onChange={(high) => change({ high })} />
      </Pairs>
      <FormActions save={pen === null ? 'Draw it' : 'Change it'} busy={false} disabled={!ready}>
        <Button size="small" onClick={onClose}>
          Cancel
        </Button>
      </FormActions>
    </Panel>
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

interface RecordFieldsProps {
  made: MadePen;
  onChange: (change: Partial<MadePen>) => void;
}

/** A logger that takes records, and which of their columns is drawn. */
function RecordFields({ made, onChange }: RecordFieldsProps): ReactElement {
  const { data: loggers = [], error } = useQuery(recordLoggersQuery);
  const { data: columns = [] } = useQuery(recordColumnsQuery(made.logger));
  const numbers = columns.filter((one) => one.value_type !== 'text');
  const choose = (value: string): void => {
    const column = numbers.find((one) => String(one.number) === value);
    if (column === undefined) return;
    onChange({
      column: column.number,
      unit: column.unit,
      ...(made.name === '' ? { name: column.name } : {}),
    });
  };
  if (error !== null) return <Told kind="error">{errorText(error)}</Told>;
  if (loggers.length === 0) return <Told>No logger takes records yet; the set-up adds one.</Told>;
  return (
    <>
      <Choice
        label="Logger"
        value={made.logger}
        options={loggers.map((one) => ({ value: one.uid, label: `${one.name} (${one.records})` }))}
        onChange={(logger) => onChange({ logger, column: 0 })}
      />
      <Choice
        label="Column"
        value={String(made.column)}
        options={numbers.map((one) => ({ value: String(one.number), label: one.name }))}
        onChange={choose}
      />
    </>
  );
}
