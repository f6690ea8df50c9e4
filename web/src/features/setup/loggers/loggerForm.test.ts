import { describe, expect, it } from 'vitest';
import { loggerBody, loggerForm } from './loggerForm';

describe('A logger while it is edited', () => {
  it('is sent with the fields of its mode alone', () => {
    const form = { ...loggerForm(null, []), name: 'Lots', mode: 'on_trigger' as const };
    const body = loggerBody(form, 4);
    expect(body).toMatchObject({ name: 'Lots', mode: 'on_trigger', revision: 4 });
    expect(body).toHaveProperty('trigger');
    expect(body).toHaveProperty('columns');
    for (const other of ['rule', 'overrides', 'interval_us', 'before_us', 'keeps']) {
      expect(body).not.toHaveProperty(other);
    }
  });

  it('keeps what was typed in another mode until it is saved', () => {
    const form = { ...loggerForm(null, []), mode: 'periodic' as const, interval_us: 5_000_000 };
    expect(loggerBody({ ...form, mode: 'on_change' })).not.toHaveProperty('interval_us');
    expect(loggerBody(form)).toMatchObject({ interval_us: 5_000_000, keeps: 'value' });
  });
});
