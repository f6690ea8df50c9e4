import { expect, it } from 'vitest';
import { placeOf } from './shown';

const SHOWN = new Set(['name', 'config.port', 'shifts.0.name', 'shifts.0.start_minute', 'address']);

it.each([
  ['name', 'name'],
  ['tags.0.name', 'name'],
  ['plant.shifts.0.name', 'shifts.0.name'],
  ['config.port', 'config.port'],
  ['port', 'config.port'],
  ['address.modbus.data_type', 'address'],
  ['tags.0.formula', 'address'],
  ['logger', null],
])('a problem with %s is said at %s', (field, place) => {
  expect(placeOf(field, SHOWN, { formula: 'address' })).toBe(place);
});
