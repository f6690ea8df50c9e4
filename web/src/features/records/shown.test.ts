// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from 'vitest';
import type { RecordColumn } from '../../entities/records';
import { keepLayout } from '../../ui/table/layout';
import { exportPath, idOf, keptAs } from './shown';

const column = (tag: string, number: number, present = true): RecordColumn => ({
  ...{ name: tag, tag, number, present },
  ...{ value_type: 'float', unit: '%', decimals: 1 },
});
const COLUMNS = [column('moisture', 1), column('lot', 2), column('lot', 3, false)];
const ALL = { span: null, look: { search: '', order: null } };

describe('the file of what is shown', () => {
  beforeEach(() => localStorage.clear());

  it('has all columns in their order at first', () => {
    expect(COLUMNS.map(idOf)).toEqual(['moisture', 'lot', 'lot 3']);
    const query = new URL(exportPath('u1', 'csv', ALL, COLUMNS), 'http://x').searchParams;
    expect(query.getAll('column')).toEqual(['number', 'time', 'reason', '1', '2', '3']);
    expect(query.getAll('name')).toEqual(['', '', '', '', '', '']);
    expect(query.has('search')).toBe(false);
  });

  it('has those that are shown, as they are ordered and called here, and the records that match', () => {
    keepLayout(keptAs('u1'), [
      { id: 'lot', isShown: true, name: 'Batch' },
      { id: 'No.', isShown: true, name: '' },
      ...['Time', 'Trigger', 'moisture', 'lot 3'].map((id) => ({ id, isShown: false, name: '' })),
    ]);
    const look = { search: 'penne', order: { by: '2', descending: true } };
    const span = { startUs: 1000, endUs: 2000 };
    const query = new URL(exportPath('u1', 'xlsx', { span, look }, COLUMNS), 'http://x').searchParams;
    expect(query.getAll('column')).toEqual(['2', 'number']);
    expect(query.getAll('name')).toEqual(['Batch', '']);
    expect(Object.fromEntries(query)).toMatchObject({
      ...{ form: 'xlsx', search: 'penne', order: '2', descending: 'true', start: '1000', end: '2000' },
    });
  });
});
