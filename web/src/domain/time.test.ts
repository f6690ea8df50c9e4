import { describe, expect, it } from 'vitest';
import {
  clockText,
  dayOrClockText,
  dayText,
  durationText,
  HOUR,
  isoText,
  lengthText,
  MINUTE,
  parseDuration,
  parseIso,
  SECOND,
} from './time';
import { niceTimeTicks } from './ticks';

const ROME = 'Europe/Rome';
const at = (text: string): number => parseIso(text) ?? NaN;

describe('times', () => {
  it.each([1, 250_000, SECOND, 90 * SECOND, 8 * HOUR, 14 * 24 * HOUR, 30 * HOUR + 5 * MINUTE])(
    'a length of %d µs comes back from ISO 8601',
    (us) => expect(parseDuration(durationText(us))).toBe(us),
  );

  it.each(['', 'P', 'PT', 'PT0S', '10M', 'P1Y', 'PT-5M', 'PTxM'])('%j is no duration', (text) => {
    expect(parseDuration(text)).toBeNull();
  });

  it('keeps microseconds through ISO 8601', () => {
    const us = 1_795_000_000_123_456;
    expect(parseIso(isoText(us))).toBe(us);
  });

  it('takes an offset and refuses a time without a zone', () => {
    expect(at('2026-11-24T06:00:00+01:00')).toBe(at('2026-11-24T05:00:00Z'));
    expect(parseIso('2026-11-24T06:00:00')).toBeNull();
    expect(parseIso('yesterday')).toBeNull();
  });

  it('half days apart, names the day at its beginning and the clock at noon, also where the clocks change', () => {
    const stretch = { startUs: at('2026-10-24T00:00:00+02:00'), endUs: at('2026-10-26T00:00:00+01:00') };
    expect(niceTimeTicks(stretch, 5, ROME).map((us) => dayOrClockText(us, ROME))).toEqual([
      'Sat 24 Oct',
      '12:00',
      'Sun 25 Oct',
      '12:00',
      'Mon 26 Oct',
    ]);
  });

  it("shows the plant's clock on both sides of the change of daylight saving", () => {
    expect(clockText(at('2026-10-25T00:30:00Z'), ROME, MINUTE)).toBe('02:30');
    expect(clockText(at('2026-10-25T01:30:00Z'), ROME, MINUTE)).toBe('02:30');
    expect(clockText(at('2026-10-25T02:30:00Z'), ROME, MINUTE)).toBe('03:30');
    expect(dayText(at('2026-10-24T22:30:00Z'), ROME)).toBe('Sun 25 Oct');
  });

  it('shows as many digits as the step needs', () => {
    const us = at('2026-11-24T05:00:09.250Z');
    expect([HOUR, SECOND, 1].map((step) => clockText(us, 'UTC', step))).toEqual([
      '05:00',
      '05:00:09',
      '05:00:09.250',
    ]);
  });

  it('tells lengths in at most two units', () => {
    expect([90 * MINUTE, 40 * SECOND, 250_000, 26 * HOUR].map(lengthText)).toEqual([
      '1 h 30 min',
      '40 s',
      '250 ms',
      '1 d 2 h',
    ]);
  });

  it("puts the rail's ticks on round times of the zone", () => {
    const ticks = niceTimeTicks(
      { startUs: at('2026-11-23T00:10:00Z'), endUs: at('2026-11-23T20:00:00Z') },
      5,
      ROME,
    );
    expect(ticks.map((us) => clockText(us, ROME, MINUTE))).toEqual(['06:00', '12:00', '18:00']);
  });

  // Clocks in the European Union are set on the last Sundays of March and October, at 01:00 UTC
  // (Directive 2000/84/EC, articles 2 and 3).
  it.each([
    ['2026-10-23T22:00:00Z', '2026-10-29T23:00:00Z'],
    ['2026-03-26T23:00:00Z', '2026-04-01T22:00:00Z'],
    ['2027-10-29T22:00:00Z', '2027-11-04T23:00:00Z'],
    ['2027-03-26T23:00:00Z', '2027-04-01T22:00:00Z'],
  ])(
    'puts the ticks of days at midnight and those of hours at full ones, over a change of the clock: %s',
    (from, to) => {
      const span = { startUs: at(from), endUs: at(to) };
      const days = niceTimeTicks(span, 8, ROME);
      expect(days).toHaveLength(7);
      expect(new Set(days.map((us) => clockText(us, ROME, MINUTE)))).toEqual(new Set(['00:00']));
      const hours = niceTimeTicks(span, 30, ROME).map((us) => clockText(us, ROME, MINUTE));
      expect(new Set(hours)).toEqual(new Set(['00:00', '06:00', '12:00', '18:00']));
      expect(hours).toHaveLength(25);
    },
  );
});
