import * as common from 'texts/common.json';

/** The quality of a value: the upper 16 bits of an OPC UA status code. */
const BAD = 0x8000;
const UNCERTAIN = 0x4000;

export function isBad(quality: number): boolean {
  return quality >= BAD;
}

export function isUncertain(quality: number): boolean {
  return quality >= UNCERTAIN && quality < BAD;
}

export function qualityText(quality: number): string {
  return isBad(quality) ? common.bad : isUncertain(quality) ? common.uncertain : common.good;
}
