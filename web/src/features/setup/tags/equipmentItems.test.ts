import { describe, expect, it } from 'vitest';
import { above, equipmentItems } from './equipmentItems';

describe('equipment as a tree', () => {
  it('counts the tags of all below, and orders numbers as numbers', () => {
    const items = equipmentItems([
      { path: 'Line 10', tags: 1 },
      { path: 'Line 2/Zone 1', tags: 3 },
      { path: 'Line 2', tags: 2 },
      { path: 'Line 2/Zone 1/Damper', tags: 4 },
      { path: 'Boiler house', tags: 5 },
    ]);
    expect(items.map(({ id, tags }) => [id, tags])).toEqual([
      ['Boiler house', 5],
      ['Line 2', 9],
      ['Line 10', 1],
    ]);
    expect(items[1]?.children).toEqual([
      {
        ...{ id: 'Line 2/Zone 1', label: 'Zone 1', tags: 7 },
        children: [{ id: 'Line 2/Zone 1/Damper', label: 'Damper', tags: 4, children: [] }],
      },
    ]);
    expect(equipmentItems([])).toEqual([]);
  });

  it('knows what stands above a piece', () => {
    expect(above('Line 2/Zone 1/Damper')).toEqual(['Line 2', 'Line 2/Zone 1']);
    expect(above('Line 2')).toEqual([]);
  });
});
