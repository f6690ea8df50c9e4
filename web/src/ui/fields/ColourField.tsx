/** A colour of one's own: one of the theme's eight, or any; what is hard to see on a ground is said. */
import { Box, Button, FormHelperText, Typography } from '@mui/material';
import { useId, type ReactElement } from 'react';
import * as wording from 'texts/ui.json';
import { fill } from '../../domain/fill';
import { contrast, LEAST_DRAWN } from './contrast';
import { useThemeChoice } from '../themeContext';
import { TOKENS, type ThemeName } from '../tokens';

interface ColourFieldProps {
  label: string;
  /** #RRGGBB; '': none of its own. */
  value: string;
  /** In which colour it is drawn while it has none of its own. */
  shown?: string;
  /** What no colour means, as it stands on the button that takes it back. */
  none: string;
  onChange: (value: string) => void;
  problem?: string | undefined;
}

export function ColourField(props: ColourFieldProps): ReactElement {
  const { label, value, shown = '', none, onChange, problem } = props;
  const { tokens } = useThemeChoice();
  const id = useId();
  const drawn = value === '' ? shown : value;
  const hard = COLOUR.test(value) ? hardOn(value) : [];
  return (
    <Box role="group" aria-labelledby={id}>
      <Typography id={id} variant="caption" sx={{ color: 'text.secondary' }}>
        {label}
      </Typography>
      <Box sx={{ display: 'flex', alignItems: 'center', flexWrap: 'wrap', gap: 0.75 }}>
        {tokens.pens.map((one, i) => (
          <Box
            key={one}
            component="button"
            type="button"
            aria-label={fill(wording.colourNumber, { number: i + 1 })}
            aria-pressed={drawn === one}
            onClick={() => onChange(one)}
            sx={{
              width: 24,
              height: 24,
              p: 0,
              borderRadius: '50%',
              bgcolor: one,
              cursor: 'pointer',
              border: 2,
              borderColor: drawn === one ? 'text.primary' : 'transparent',
            }}
          />
        ))}
        <Box
          component="input"
          type="color"
          aria-label={wording.anotherColour}
          title={wording.anotherColour}
          value={(COLOUR.test(drawn) ? drawn : (tokens.pens[0] ?? tokens.ink)).toLowerCase()}
          onChange={(event) => onChange(event.target.value.toUpperCase())}
          sx={{ width: 40, height: 28, p: 0, border: 0, bgcolor: 'transparent', cursor: 'pointer' }}
        />
        {value !== '' && (
          <Button
            size="small"
            sx={{ minWidth: 0, px: 0.5, whiteSpace: 'nowrap' }}
            onClick={() => onChange('')}
          >
            {none}
          </Button>
        )}
      </Box>
      {hard.length > 0 && (
        <FormHelperText>
          {fill(wording.valueIsHardToSeeHard, {
            value,
            hard: hard.map((theme) => fill(wording.byTheme, { theme })).join(' and '),
            value2: LEAST_DRAWN,
          })}
        </FormHelperText>
      )}
      {problem !== undefined && <FormHelperText error>{problem}</FormHelperText>}
    </Box>
  );
}

const COLOUR = /^#[0-9a-f]{6}$/i;
const THEMES: readonly ThemeName[] = ['day', 'night'];

/** The themes on whose ground a colour is hard to see. */
function hardOn(colour: string): ThemeName[] {
  return THEMES.filter((theme) => contrast(colour, TOKENS[theme].surface) < LEAST_DRAWN);
}
