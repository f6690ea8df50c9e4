/** Where a figure lies among what is normal, as it is said. */
import * as common from 'texts/common.json';
import * as wording from 'texts/entities.json';
import type { components } from '../../platform/schema';

export const VERDICTS: Readonly<Record<components['schemas']['Verdict'], string>> = {
  'far below': wording.farBelow,
  below: wording.below,
  normal: wording.normal,
  above: wording.above,
  'far above': wording.farAbove,
  'nothing to compare with': wording.nothingToCompareWith,
  'no value': common.noValue,
};
