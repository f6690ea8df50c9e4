/** Values put into texts of the catalogue, which are written as ICU MessageFormat has them: `{name}` for a value, and
 * `{count, plural, one {# tag} other {# tags}}` where a number decides the form. Of that format, no more is used. */
import * as wording from 'texts/domain.json';

export type Filling = string | number;

const FORM = String.raw`\{((?:[^{}]|\{\w+\})*)\}`;
const PLACE = new RegExp(String.raw`\{(\w+)(?:, plural,((?: \w+ ${FORM})+))?\}`, 'g');

/** The text with its values; a name that has none stays as it is written. */
export function fill(text: string, values: Readonly<Record<string, Filling>>): string {
  return text.replace(PLACE, (whole, name: string, forms: string | undefined) => {
    const value = values[name];
    if (value === undefined) return whole;
    return forms === undefined ? `${value}` : fill(formOf(forms, Number(value)), values);
  });
}

/** The form of a plural for a number: that of its category in the language, or the general one. */
function formOf(forms: string, count: number): string {
  const form = (name: string): string | undefined => new RegExp(` ${name} ${FORM}`).exec(forms)?.[1];
  const category = new Intl.PluralRules(wording.language).select(count);
  return (form(category) ?? form('other') ?? '').replaceAll('#', `${count}`);
}
