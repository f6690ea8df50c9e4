import { describe, expect, it } from 'vitest';
import { firstAddress, firstConfig } from './choices';
import { placeText, PROTOCOLS, protocolName, whereText } from './protocols';

describe('places in one line', () => {
  it.each([
    [{ table: 'input_register', address: 100, data_type: 'float32' }, 'Input register 100, float32'],
    [{ table: 'coil', address: 3, data_type: 'bool' }, 'Coil 3'],
    [{ shape: 'random_walk', period_s: 60 }, 'random walk, 60 s'],
    [{ initial: 78, keep: true }, 'begins with 78, kept'],
    [{ initial: null, keep: false }, 'begins with no value'],
    [{ kind: 'formula', formula: 'a * b', inputs: {} }, 'a * b'],
    [{ kind: 'counter', edge: 'rising', inputs: {} }, 'Counter of edges'],
    [{ item: 'processor' }, 'Processor, %'],
  ])('%j is %s', (address, text) => expect(placeText(address)).toBe(text));
});

describe('sources', () => {
  it('say where they are found', () => {
    const config = { host: '127.0.0.1', port: 502, unit: 5, timeout_s: 1 };
    expect(whereText('modbus_tcp', config)).toBe('127.0.0.1:502, unit 5');
    expect(whereText('internal', {})).toBe('built in');
  });

  it.each(PROTOCOLS)('of $label begin with settings and a place that can be shown', ({ value, label }) => {
    expect(protocolName(value)).toBe(label);
    expect(placeText(firstAddress(value))).not.toContain('–');
    expect(whereText(value, firstConfig(value))).not.toContain('–');
  });

  it('of a protocol that is not known keep its name', () => expect(protocolName('pigeon')).toBe('pigeon'));
});
