/** Names of a state tag's values as lines that can be typed in. */
import * as wording from 'texts/setup-tags.json';

export interface StateLine {
  /** As it is typed. */
  number: string;
  name: string;
}

/** The lines of what the server keeps; what cannot be read is none. */
export function readStates(text: string): StateLine[] {
  if (text.trim() === '') return [];
  try {
    const found = JSON.parse(text) as unknown;
    if (typeof found !== 'object' || found === null) return [];
    return Object.entries(found)
      .map(([number, name]) => ({ number, name: String(name) }))
      .sort((a, b) => Number(a.number) - Number(b.number));
  } catch {
    return [];
  }
}

/** As the server takes them. */
export function writeStates(lines: readonly StateLine[]): string {
  if (lines.length === 0) return '';
  return `{${lines.map(({ number, name }) => `${JSON.stringify(number.trim())}: ${JSON.stringify(name)}`).join(', ')}}`;
}

/** What is wrong with the number of a line; undefined: nothing. That each has a name the server says. */
export function stateProblem(lines: readonly StateLine[], at: number): string | undefined {
  const number = lines[at]?.number.trim() ?? '';
  if (!/^[+-]?\d+$/.test(number)) return wording.giveAWholeNumber;
  const same = lines.findIndex((line) => Number(line.number) === Number(number));
  return same === at ? undefined : wording.itStandsAboveAlready;
}

/** The number after the highest. */
export function freshNumber(lines: readonly StateLine[]): string {
  const numbers = lines.map(({ number }) => Number(number)).filter(Number.isInteger);
  return String(numbers.length === 0 ? 0 : Math.max(...numbers) + 1);
}
