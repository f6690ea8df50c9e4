import { describe, expect, it } from 'vitest';
import { Refresher } from './following';

/** Queries whose reading ends when a test says so. */
class Queries {
  readonly asked: string[] = [];
  private readonly ends: (() => void)[] = [];

  invalidateQueries = ({ queryKey }: { queryKey?: readonly unknown[] } = {}): Promise<void> => {
    this.asked.push(String(queryKey));
    return new Promise((end) => this.ends.push(end));
  };

  async settle(): Promise<void> {
    this.ends.splice(0).forEach((end) => end());
    await new Promise((end) => setTimeout(end));
  }
}

describe('what is read anew', () => {
  it('is what has changed since the page was sent, and nothing else', () => {
    const queries = new Queries();
    const refresher = new Refresher(queries, { runs: '3', notes: '8' });
    refresher.take(new Map([['runs', '3'], ['notes', '9']])); // prettier-ignore
    expect(queries.asked).toEqual(['notes']);
    refresher.take(new Map([['notes', '9']]));
    expect(queries.asked).toEqual(['notes']);
  });

  it('is everything of a change of the set-up: lists, names and statistics', () => {
    const queries = new Queries();
    new Refresher(queries, { tag: '1' }).take(new Map([['tag', '2']]));
    expect(queries.asked).toEqual(['setup', 'tags', 'statistics', 'records,columns']);
  });

  it('is read once more for all changes that came while it was being read', async () => {
    const queries = new Queries();
    const refresher = new Refresher(queries, {});
    for (const count of ['1', '2', '3', '4']) refresher.take(new Map([['jobs', count]]));
    expect(queries.asked).toEqual(['jobs']);
    await queries.settle();
    expect(queries.asked).toEqual(['jobs', 'jobs']);
    await queries.settle();
    refresher.take(new Map([['jobs', '5']]));
    expect(queries.asked).toEqual(['jobs', 'jobs', 'jobs']);
  });

  it('may be of a kind that this page does not know', () => {
    const queries = new Queries();
    new Refresher(queries, {}).take(new Map([['boards', '1']]));
    expect(queries.asked).toEqual([]);
  });
});
