import { describe, expect, it } from 'vitest';
import { addressLike, firstAddress } from './choices';

describe('the address of the next tag of a source', () => {
  it('is read as the last one is, from a place of its own', () => {
    const last = {
      table: 'holding_register',
      address: 412,
      data_type: 'int16',
      scale: 0.1,
      low_word_first: true,
    } as const;
    expect(addressLike('modbus_tcp', last)).toEqual({
      table: 'holding_register',
      address: 0,
      data_type: 'int16',
      scale: 0.1,
      low_word_first: true,
    });
    expect(addressLike('opc_ua', { node: 'ns=2;s=Speed', deadband: 0.5 })).toEqual({
      node: 'ns=2;s=',
      deadband: 0.5,
    });
  });

  it('is what is usual where there is none, and where each tag has settings of its own', () => {
    expect(addressLike('modbus_tcp', null)).toEqual(firstAddress('modbus_tcp'));
    expect(addressLike('generator', { ...firstAddress('generator'), seed: 7 })).toEqual(
      firstAddress('generator'),
    );
  });
});
