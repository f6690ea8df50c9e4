import { createContext, useContext } from 'react';
import { TOKENS, type ThemeName, type Tokens } from './tokens';

export interface ThemeChoice {
  name: ThemeName;
  tokens: Tokens;
  toggle: () => void;
}

export const ThemeChoiceContext = createContext<ThemeChoice>({
  name: 'day',
  tokens: TOKENS.day,
  toggle: () => undefined,
});

export function useThemeChoice(): ThemeChoice {
  return useContext(ThemeChoiceContext);
}
