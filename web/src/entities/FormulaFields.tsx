/** A formula with the tags of its inputs, read by the server while one types. */
import { Box, Link, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
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
        label="Formula"
        value={formula}
        placeholder="dew_point(t, rh)"
        onChange={onFormula}
        problem={problem}
      />
      {error !== null && formula.trim() !== '' && <Told kind="error">{errorText(error)}</Told>}
      {names.map((name) => (
        <TagChoice
          key={name}
          label={`${name} is`}
          value={inputs[name] ?? null}
          none="choose a tag"
          onChange={(uid) => onInput(name, uid)}
        />
      ))}
      {error === null && found !== undefined && names.length > 0 && found.missing.length === 0 && (
        <Told kind="good">
          {found.value === null
            ? `No value by the present values: ${found.quality}`
            : `Now: ${shown(found.value)}`}
        </Told>
      )}
      <Box>
        <Link
          component="button"
          type="button"
          sx={{ typography: 'caption' }}
          onClick={() => setListed(!listed)}
        >
          {listed ? 'Hide what formulas may use' : 'What formulas may use'}
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
      <Typography variant="caption">
        + - * / % (rest) ^ (power), = != &lt; &lt;= &gt; &gt;=, and, or, not, brackets; lengths of time as 500
        ms, 10 s, 5 min, 2 h, 1 d. Each name in it is a tag that you choose above.
      </Typography>
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
