/** A formula with the tags of its inputs, read by the server while one types. */
import { Box, Link, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/entities.json';
import { fill } from '../domain/fill';
import { errorText } from '../platform/errors';
import { TextLine } from '../ui/fields/lines';
import { Told } from '../ui/Panel';
import { TagChoice } from './TagChoice';
import { formulaQuery, functionsQuery } from './formulas';

interface FormulaFieldsProps {
  formula: string;
  /** Uids of the tags by their names in the formula. */
  inputs: Readonly<Record<string, string>>;
  onFormula: (formula: string) => void;
  onInput: (name: string, uid: string | null) => void;
  /** What is wrong with the formula, as a form has found. */
  problem?: string | undefined;
}

export function FormulaFields(props: FormulaFieldsProps): ReactElement {
  const { formula, inputs, onFormula, onInput, problem } = props;
  const { data: found, error } = useQuery(formulaQuery(formula, inputs));
  const [listed, setListed] = useState(false);
  // While one types, the names that were there stay: their tags are not lost over a slip.
  const names = error === null && found !== undefined ? found.inputs : Object.keys(inputs);
  return (
    <>
      <TextLine
        label={common.formula}
        value={formula}
        placeholder={wording.dewPointTRh}
        onChange={onFormula}
        problem={problem}
      />
      {error !== null && formula.trim() !== '' && <Told kind="error">{errorText(error)}</Told>}
      {names.map((name) => (
        <TagChoice
          key={name}
          label={fill(wording.nameIs, { name })}
          value={inputs[name] ?? null}
          none={common.chooseATag}
          onChange={(uid) => onInput(name, uid)}
        />
      ))}
      {error === null && found !== undefined && names.length > 0 && found.missing.length === 0 && (
        <Told kind="good">
          {found.value === null
            ? fill(wording.noValueByThePresentValues, { quality: found.quality })
            : fill(wording.nowShown, { shown: shown(found.value) })}
        </Told>
      )}
      <Box>
        <Link
          component="button"
          type="button"
          sx={{ typography: 'caption' }}
          onClick={() => setListed(!listed)}
        >
          {listed ? wording.hideWhatFormulasMayUse : wording.whatFormulasMayUse}
        </Link>
      </Box>
      {listed && <Functions />}
    </>
  );
}

function Functions(): ReactElement {
  const { data: functions = [] } = useQuery(functionsQuery);
  return (
    <Box sx={{ typography: 'caption', color: 'text.secondary' }}>
      <Typography variant="caption">{wording.percentRestPowerAndOrNot}</Typography>
      <Box component="dl" sx={{ m: 0, mt: 0.5, maxHeight: 220, overflowY: 'auto' }} tabIndex={0}>
        {functions.map((one) => (
          <Box key={one.signature} sx={{ mb: 0.5 }}>
            <Box component="dt" sx={{ fontFamily: 'B612 Mono', color: 'text.primary' }}>
              {one.signature}
            </Box>
            <Box component="dd" sx={{ m: 0, ml: 1 }}>
              {one.text}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

function shown(value: number): string {
  return String(Number(value.toPrecision(5)));
}
