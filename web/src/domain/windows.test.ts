import { describe, expect, it } from 'vitest';
import { DAY, HOUR, MINUTE, SECOND } from './time';
import {
  fixedWindow,
  goesOn,
  lastOf,
  listKey,
  listSpan,
  LONGEST_US,
  parseWindow,
  resumed,
  sameWindow,
  spanAt,
  windowName,
  windowParams,
  withWindow,
  type WindowChoice,
} from './windows';

const NOW = 1_795_600_000 * SECOND;
const ALL: [WindowChoice, string, string, boolean][] = [
  [lastOf(8 * HOUR), 'last=PT8H', 'last 8 h', true],
  [
    { kind: 'last', lengthUs: 8 * HOUR, agoUs: 90 * MINUTE },
    'last=PT8H&ago=PT1H30M',
    'last 8 h until 1 h 30 min ago',
    true,
  ],
  [{ kind: 'since', startUs: NOW - HOUR }, 'since=2026-11-25T08%3A46%3A40.000000Z', 'until now', true],
  [{ kind: 'weekday', day: 'monday' }, 'since=monday', 'Monday until now', true],
  [{ kind: 'unit', unit: 'shift', which: 'this' }, 'window=this+shift', 'this shift', true],
  [{ kind: 'unit', unit: 'day', which: 'this' }, 'window=this+day', 'today', true],
  [{ kind: 'unit', unit: 'day', which: 'last' }, 'window=last+day', 'yesterday', false],
  [{ kind: 'unit', unit: 'week', which: 'last' }, 'window=last+week', 'last week', false],
  [{ kind: 'unit', unit: 'shift', which: 'last', count: 7 }, 'window=last+7+shift', 'last 7 shifts', false],
  [
    { kind: 'fixed', startUs: NOW - HOUR, endUs: NOW },
    'from=2026-11-25T08%3A46%3A40.000000Z&to=2026-11-25T09%3A46%3A40.000000Z',
    '',
    false,
  ],
];

describe('the meaning of a window', () => {
  it.each(ALL)('travels in an address and has a name: %j', (window, address, name, live) => {
    const params = new URLSearchParams(windowParams(window));
    expect(params.toString()).toBe(address);
    expect(parseWindow(params)).toEqual(window);
    expect(windowName(window)).toBe(name);
    expect(goesOn(window)).toBe(live);
  });

  it('is read from addresses of earlier versions', () => {
    expect(parseWindow(new URLSearchParams('held=1000/2000000'))).toEqual({
      kind: 'fixed',
      startUs: 1000,
      endUs: 2_000_000,
    });
    expect(parseWindow(new URLSearchParams('window=last shift'))).toEqual({
      kind: 'unit',
      unit: 'shift',
      which: 'last',
    });
  });

  it.each([
    '',
    'last=PT0S',
    'last=nonsense',
    'window=that shift',
    'window=this year',
    'window=that 7 shift',
    'held=5/4',
    'held=a/b',
    'since=someday',
    'from=2026-11-25T08:00:00Z',
    'from=2026-11-25T08:00:00Z&to=2026-11-25T08:00:00Z',
    'last=P99999D',
    'last=PT8H&ago=P99999D',
  ])('that cannot be used is none: %s', (address) => {
    expect(parseWindow(new URLSearchParams(address))).toBeNull();
  });

  it('takes the place of another one in an address, and nothing else there', () => {
    const before = new URLSearchParams('tags=a&last=PT8H&ago=PT1H&scale=fit');
    expect(withWindow(before, ALL[3]?.[0] ?? null).toString()).toBe('tags=a&scale=fit&since=monday');
    expect(withWindow(before, null).toString()).toBe('tags=a&scale=fit');
  });

  it('tells windows apart', () => {
    expect(sameWindow(lastOf(HOUR), lastOf(HOUR))).toBe(true);
    expect(sameWindow(lastOf(HOUR), { kind: 'last', lengthUs: HOUR, agoUs: 1 })).toBe(false);
  });
});

describe('a window that goes on again', () => {
  const shown = { startUs: NOW - HOUR, endUs: NOW };
  const shift: WindowChoice = { kind: 'unit', unit: 'shift', which: 'this' };

  it('has the meaning it had, or as much until now as is shown', () => {
    expect(resumed(shift, shown)).toBe(shift);
    expect(resumed(null, shown)).toEqual(lastOf(HOUR));
    expect(resumed(lastOf(2 * HOUR), shown)).toEqual(lastOf(HOUR));
    const ago: WindowChoice = { kind: 'last', lengthUs: HOUR, agoUs: MINUTE };
    expect(resumed(ago, shown)).toBe(ago);
  });
});

describe('lists of what lies in windows', () => {
  const [now, later] = [0, 60 * SECOND].map((us) => ({ startUs: NOW - HOUR + us, endUs: NOW + us })) as [
    { startUs: number; endUs: number },
    { startUs: number; endUs: number },
  ];
  const same = (window: WindowChoice): boolean => listKey(window, now) === listKey(window, later);

  it('stay the same while their window goes on with the clock, and are others when it is another', () => {
    expect(same(lastOf(HOUR))).toBe(true);
    expect(listKey(lastOf(HOUR), now)).not.toBe(listKey(lastOf(2 * HOUR), now));
    expect(same({ kind: 'unit', unit: 'shift', which: 'last' })).toBe(false);
    expect(same({ kind: 'unit', unit: 'shift', which: 'this' })).toBe(false);
    expect(listKey(null, null)).toBe('');
  });

  it('have no end where their window ends now: what begins a moment later is in them', () => {
    const span = { startUs: NOW - HOUR, endUs: NOW };
    expect(listSpan(lastOf(HOUR), span)?.endUs).toBe(NOW + DAY);
    expect(listSpan({ kind: 'last', lengthUs: HOUR, agoUs: HOUR }, span)).toEqual(span);
    expect(listSpan({ kind: 'unit', unit: 'shift', which: 'last' }, span)).toEqual(span);
    expect(listSpan(null, null)).toBeNull();
  });
});

describe('where a window lies', () => {
  const named = { startUs: NOW - 3 * HOUR, endUs: NOW - HOUR };

  it('follows the clock, or stands', () => {
    expect(spanAt(lastOf(HOUR), NOW, null)).toEqual({ startUs: NOW - HOUR, endUs: NOW });
    expect(spanAt({ kind: 'last', lengthUs: HOUR, agoUs: DAY }, NOW, null)).toEqual({
      startUs: NOW - DAY - HOUR,
      endUs: NOW - DAY,
    });
    expect(spanAt({ kind: 'since', startUs: NOW - DAY }, NOW, null)).toEqual({
      startUs: NOW - DAY,
      endUs: NOW,
    });
    expect(spanAt(fixedWindow(1, 2_000_000), NOW, null)).toEqual({ startUs: 1, endUs: 2_000_000 });
  });

  it('is asked of the server where the calendar says it; this one ends now', () => {
    const shift: WindowChoice = { kind: 'unit', unit: 'shift', which: 'this' };
    expect(spanAt(shift, NOW, null)).toBeNull();
    expect(spanAt(shift, NOW, named)).toEqual({ startUs: NOW - 3 * HOUR, endUs: NOW });
    expect(spanAt({ ...shift, which: 'last' }, NOW, named)).toEqual(named);
  });

  it('has a length above zero, also where the clock of this machine is behind', () => {
    const since = spanAt({ kind: 'since', startUs: NOW + HOUR }, NOW, null);
    expect((since?.endUs ?? 0) - (since?.startUs ?? 0)).toBe(SECOND);
    const today = spanAt({ kind: 'unit', unit: 'day', which: 'this' }, named.startUs - HOUR, named);
    expect((today?.endUs ?? 0) - (today?.startUs ?? 0)).toBe(SECOND);
  });

  it('stays inside what can be asked for', () => {
    expect(fixedWindow(-5, 10)).toEqual({ kind: 'fixed', startUs: 0, endUs: 1000 });
    const long = fixedWindow(0, 2 * LONGEST_US);
    expect(long.endUs - long.startUs).toBe(LONGEST_US);
  });
});
