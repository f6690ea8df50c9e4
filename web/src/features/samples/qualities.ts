/** Which samples are shown by their quality, and what the choices are called. */
import * as common from 'texts/common.json';
import * as wording from 'texts/samples.json';
import type { SamplesState } from './state';

export const QUALITY_CHOICES: readonly { value: SamplesState['quality']; label: string }[] = [
  { value: 'any', label: common.any },
  { value: 'good', label: common.good },
  { value: 'uncertain', label: common.uncertain },
  { value: 'bad', label: common.bad },
  { value: 'not_good', label: wording.uncertainOrBad },
];

export function qualityName(quality: SamplesState['quality']): string {
  return QUALITY_CHOICES.find(({ value }) => value === quality)?.label ?? quality;
}
