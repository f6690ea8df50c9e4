import { describe, expect, it } from 'vitest';
import { HOUR, MINUTE, SECOND } from '../../../domain/time';
import { fixedWindow, lastOf, type WindowChoice } from '../../../domain/windows';
import { parseState } from '../model/state';
import { createTrendStore, type TrendStore } from './trendStore';

const [A, B] = ['a', 'b'].map((one) => `${one}1234567-0000-4000-8000-000000000000`) as [string, string];
const NOW = 1_795_600_000 * SECOND;

class Clock {
  ms = 0;
  frames: (() => void)[] = [];
  readonly timing = {
    nowMs: (): number => this.ms,
    nextFrame: (work: () => void): void => void this.frames.push(work),
  };
  frame(): void {
    this.frames.splice(0).forEach((work) => work());
  }
}

function made(address = '', clock = new Clock()): TrendStore & { clock: Clock; window: () => WindowChoice } {
  const store = createTrendStore(parseState(new URLSearchParams(address)), clock.timing);
  return { ...store, clock, window: () => store.values.getState().state.window };
}

describe('the store of a trend', () => {
  it('builds each change on the one before', () => {
    const { values, actions } = made();
    actions.change({ scales: 'fit' });
    actions.change((now) => ({ hidden: [now.scales] }));
    expect(values.getState().state).toMatchObject({ scales: 'fit', hidden: ['fit'] });
  });

  it('puts pens on and takes them off, from those that stand there before any were chosen', () => {
    const { values, actions } = made();
    actions.toggleTag(A, [A, B]);
    expect(values.getState().state.tags).toEqual([B]);
    actions.toggleTag(A, []);
    expect(values.getState().state.tags).toEqual([B, A]);
    actions.toggleHidden(A);
    expect(values.getState().state.hidden).toEqual([A]);
  });

  it('takes back an area that was zoomed at once: its window, and the scales of its pens', () => {
    const { values, actions, window } = made('last=PT1H');
    actions.setWindow(fixedWindow(NOW - HOUR, NOW), { [A]: { low: 1, high: 2 } });
    actions.setWindow(fixedWindow(NOW - MINUTE, NOW));
    actions.undo();
    expect(values.getState().state.looks).toEqual({ [A]: { low: 1, high: 2 } });
    actions.undo();
    expect(window()).toEqual(lastOf(HOUR));
    expect(values.getState().state.looks).toEqual({});
  });

  it('takes back windows, moves of one hand at once', () => {
    const { actions, clock, window } = made('last=PT1H');
    actions.setWindow(fixedWindow(NOW - HOUR, NOW));
    for (const by of [1, 2, 3]) {
      clock.ms = 1_000 + by;
      actions.moveWindow(() => fixedWindow(NOW - HOUR + by * MINUTE, NOW));
    }
    clock.ms = 9_000;
    actions.moveWindow(() => fixedWindow(NOW - 9 * HOUR, NOW));
    actions.undo();
    expect(window()).toEqual(fixedWindow(NOW - HOUR + 3 * MINUTE, NOW));
    actions.undo();
    expect(window()).toEqual(fixedWindow(NOW - HOUR, NOW));
    actions.undo();
    expect(window()).toEqual(lastOf(HOUR));
    actions.undo();
    expect(window()).toEqual(lastOf(HOUR));
  });

  it('stands still at what is shown and goes on with the meaning it had', () => {
    const { actions, window } = made('window=this shift');
    const shown = { startUs: NOW - 3 * HOUR, endUs: NOW };
    actions.toggleLive(shown);
    expect(window()).toEqual({ kind: 'fixed', ...shown });
    actions.toggleLive(shown);
    expect(window()).toEqual({ kind: 'unit', unit: 'shift', which: 'this' });
  });

  it('goes on with the length that a window has been given meanwhile', () => {
    const { actions, window } = made('last=PT1H');
    actions.toggleLive({ startUs: NOW - HOUR, endUs: NOW });
    actions.toggleLive({ startUs: NOW - MINUTE, endUs: NOW });
    expect(window()).toEqual(lastOf(MINUTE));
  });

  it('draws the cursor once a picture, and knows at once where the pointer is', () => {
    const { values, actions, clock } = made();
    let drawn = 0;
    values.subscribe((now, before) => {
      if (now.cursorUs !== before.cursorUs) drawn++;
    });
    actions.setCursor(1);
    actions.setCursor(2);
    expect(values.getState()).toMatchObject({ pointerUs: 2, cursorUs: null });
    clock.frame();
    expect(values.getState().cursorUs).toBe(2);
    expect(drawn).toBe(1);
  });

  it('tells a trend that was opened from one that was changed, and keeps still when told what it shows', () => {
    const { values, actions } = made('last=PT1H');
    const before = values.getState().state;
    actions.replace(parseState(new URLSearchParams('last=PT1H')));
    expect(values.getState().state).toBe(before);
    actions.replace(parseState(new URLSearchParams('last=PT2H')));
    expect(values.getState()).toMatchObject({ state: { window: lastOf(2 * HOUR) }, opened: 0 });
    actions.open(before);
    expect(values.getState()).toMatchObject({ state: before, opened: 1 });
  });

  it('is one of several: two on a page do not touch each other', () => {
    const [one, two] = [made('last=PT1H'), made('last=PT2H')];
    one.actions.setWindow(lastOf(MINUTE));
    one.actions.setCursor(5);
    one.clock.frame();
    expect(two.window()).toEqual(lastOf(2 * HOUR));
    expect(two.values.getState().cursorUs).toBeNull();
  });
});
