import { describe, expect, it } from 'vitest';
import { HOUR, isoText } from './time';
import { parseStretch } from './stretch';

const ZONE = 'Europe/Rome';
const END = Date.UTC(2026, 10, 25, 9, 0) * 1000;
const SPAN = { startUs: END - HOUR, endUs: END };

function read(text: string): string[] | null {
  const found = parseStretch(text, ZONE, SPAN);
  return found === null ? null : [found.startUs, found.endUs].map((us) => isoText(us).slice(0, 19));
}

describe('a stretch as people write it', () => {
  it.each([
    ['24.11. 06:00 to 14:00', '2026-11-24T05:00:00', '2026-11-24T13:00:00'],
    ['06:00 to 07:30:15', '2026-11-25T05:00:00', '2026-11-25T06:30:15'],
    ['24.11.2026 22:00 to 06:00', '2026-11-24T21:00:00', '2026-11-25T05:00:00'],
    ['2026-11-23 to 2026-11-24', '2026-11-22T23:00:00', '2026-11-23T23:00:00'],
    ['2026-11-24T08:30:00Z/2026-11-24T09:00:00Z', '2026-11-24T08:30:00', '2026-11-24T09:00:00'],
    ['2026-11-24T08:30:00Z/PT90M', '2026-11-24T08:30:00', '2026-11-24T10:00:00'],
    ['P1D/2026-11-24T08:30:00Z', '2026-11-23T08:30:00', '2026-11-24T08:30:00'],
    ['2026-07-01 06:00 to 14:00', '2026-07-01T04:00:00', '2026-07-01T12:00:00'],
  ])('%s', (text, start, end) => {
    expect(read(text)).toEqual([start, end]);
  });

  it('keeps the length of the window around one moment', () => {
    expect(read('24.11. 12:00')).toEqual(['2026-11-24T10:30:00', '2026-11-24T11:30:00']);
  });

  // Of the changes of the clock in 2026 and 2027, as in Directive 2000/84/EC.
  it.each([
    ['24.10.2026 22:00 to 06:00', '2026-10-24T20:00:00', '2026-10-25T05:00:00'],
    ['28.3.2026 22:00 to 06:00', '2026-03-28T21:00:00', '2026-03-29T04:00:00'],
    ['30.10.2027 22:00 to 06:00', '2027-10-30T20:00:00', '2027-10-31T05:00:00'],
    ['27.3.2027 22:00 to 06:00', '2027-03-27T21:00:00', '2027-03-28T04:00:00'],
    ['31.12.2026 22:00 to 06:00', '2026-12-31T21:00:00', '2027-01-01T05:00:00'],
  ])('ends a night shift at its hour, also when the clocks are set in it: %s', (text, start, end) => {
    expect(read(text)).toEqual([start, end]);
  });

  it.each([
    '',
    'nonsense',
    '25:00',
    '24.11. 06:00 to',
    '14:00 to 2026-11-24',
    '1 2 3',
    '2026-03-29 02:30',
    'PT1H',
    'PT1H/',
    'PT/06:00',
  ])('means nothing: %s', (text) => {
    expect(read(text)).toBeNull();
  });
});
