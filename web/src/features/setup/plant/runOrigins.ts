/** What makes the recorder begin a run, in words. */
import * as wording from 'texts/setup-plant.json';

export const ORIGINS = [
  { value: 'change', label: wording.aTagHasAnotherValueSuch },
  { value: 'tag', label: wording.aTagIsOn },
  { value: 'logger', label: wording.aLoggerIsWanted },
] as const;

/** The words for one of them. */
export function originLabel(origin: string): string {
  return ORIGINS.find((one) => one.value === origin)?.label ?? origin;
}
