import { describe, expect, it, vi } from 'vitest';
import { PAGES } from '../domain/pages';
import type { Sheet } from '../entities/sheets';
import type { Tag } from '../platform/client';
import { entriesFor, hasWords, sheetPath, type Sources } from './paletteEntries';

const tag = (uid: string, name: string): Tag =>
  ({
    uid,
    name,
    description: 'behind the fan',
    unit: '°C',
    equipment: 'Line 1/Zone 1',
    recorded: [],
  }) as unknown as Tag;
const sheet = (uid: string, name: string, page: 'trends' | 'statistics', folder = ''): Sheet =>
  ({ uid, name, page, folder, view: 'last=PT8H' }) as unknown as Sheet;

const SOURCES: Sources = {
  tags: [tag('t1', 'Zone 1 air temperature'), tag('t2', 'Zone 2 air temperature')],
  sheets: [sheet('s1', 'Dampers', 'trends', 'Zone 1'), sheet('s2', 'Lines by the shift', 'statistics')],
  pages: PAGES,
  actions: [{ name: 'Change to night', run: () => undefined }],
};
const NOTHING = { onTag: () => undefined, onPath: () => undefined };
const names = (typed: string): string[] => entriesFor(typed, SOURCES, NOTHING).map((one) => one.name);

describe('the palette', () => {
  it('finds tags first, then sheets, pages and actions, by words in any order', () => {
    expect(names('air zone')).toEqual(['Zone 1 air temperature', 'Zone 2 air temperature']);
    expect(names('zone 1')).toEqual(['Zone 1 air temperature', 'Zone 2 air temperature', 'Dampers']);
    expect(names('set-up logg')).toEqual(['Set-up: Loggers']);
    expect(names('files')).toEqual(['Files made in the background']);
    expect(names('NIGHT')).toEqual(['Change to night']);
    expect(names('nothing such')).toEqual([]);
  });

  it('shows the ways through the application while nothing is typed', () => {
    const groups = [...new Set(entriesFor('', SOURCES, NOTHING).map((one) => one.group))];
    expect(groups).toEqual(['Pages', 'Actions', 'Sheets', 'Tags']);
  });

  it('leaves out tags of an earlier text', () => {
    expect(names('zone 2')).toEqual(['Zone 2 air temperature']);
  });

  it('takes one where its name says', () => {
    const onPath = vi.fn();
    const onTag = vi.fn();
    for (const typed of ['dampers', 'by the shift', 'records', 'zone 2'])
      entriesFor(typed, SOURCES, { onTag, onPath })[0]?.run();
    expect(onPath.mock.calls).toEqual([['/trends?sheet=s1'], ['/statistics?last=PT8H'], ['/records']]);
    expect(onTag).toHaveBeenCalledWith(SOURCES.tags[1]);
  });

  it('opens a sheet by its page', () => {
    expect(sheetPath({ uid: 'x', page: 'trends', view: 'a=1' })).toBe('/trends?sheet=x');
    expect(sheetPath({ uid: 'x', page: 'statistics', view: 'a=1' })).toBe('/statistics?a=1');
    expect(sheetPath({ uid: 'x', page: 'samples', view: 'a=1' })).toBe('/samples?a=1');
  });

  it('needs every word', () => {
    expect(hasWords('Zone 1 air', 'air 1')).toBe(true);
    expect(hasWords('Zone 1 air', 'air 2')).toBe(false);
    expect(hasWords('anything', '')).toBe(true);
  });
});
