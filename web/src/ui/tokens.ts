/** The colours of both themes; pens after Okabe and Ito, tuned to at least 3:1 on the plot's ground. */
export interface Tokens {
  paper: string;
  surface: string;
  ink: string;
  quiet: string;
  rule: string;
  accent: string;
  accentInk: string;
  select: string;
  alert: string;
  pens: readonly string[];
  /** Grounds of a plot beside the page's own: on each of them every pen has 3:1, and every axis 4.5:1. */
  grounds: Readonly<Record<'plain' | 'grey' | 'cool', string>>;
}

export type ThemeName = 'day' | 'night';

export const TOKENS: Record<ThemeName, Tokens> = {
  day: {
    paper: '#F6F3EC',
    surface: '#FFFDF8',
    ink: '#23282B',
    quiet: '#5E6467',
    rule: '#DDD7CA',
    accent: '#1F6F78',
    accentInk: '#FFFFFF',
    select: '#E3ECEA',
    alert: '#A3341B',
    pens: ['#0067A5', '#B35C00', '#007A5A', '#A23B7A', '#6B5B00', '#5B4FB3', '#C0392B', '#3D5A66'],
    grounds: { plain: '#FFFFFF', grey: '#F1F1EF', cool: '#EFF5F7' },
  },
  night: {
    paper: '#16181A',
    surface: '#1E2124',
    ink: '#E4E2DB',
    quiet: '#9AA0A2',
    rule: '#33383B',
    accent: '#5FB3B9',
    accentInk: '#101314',
    select: '#24302F',
    alert: '#F0907A',
    pens: ['#56B4E9', '#E69F00', '#2FBF96', '#E07FB8', '#D6C84A', '#A79BF0', '#F2806B', '#9FB8C4'],
    grounds: { plain: '#000000', grey: '#26292B', cool: '#17222A' },
  },
};

/** The colours of a theme, with the accent of the installation where it has one (#rrggbb). */
export function tokensOf(
  name: ThemeName,
  { accent_day, accent_night }: { accent_day: string; accent_night: string },
): Tokens {
  const accent = name === 'day' ? accent_day : accent_night;
  return accent === '' ? TOKENS[name] : { ...TOKENS[name], accent };
}

/** The colour of the pen with this number, counted from 0; past eight they repeat. */
export function penColour(tokens: Tokens, index: number): string {
  return tokens.pens[index % tokens.pens.length] ?? tokens.ink;
}
