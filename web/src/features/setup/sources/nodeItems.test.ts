import { describe, expect, it } from 'vitest';
import type { UaNode } from '../../../entities/sources';
import {
  isSelectable,
  nodeItems,
  nodeOf,
  selectedItems,
  toggledNodes,
  type Answer,
  type Chosen,
} from './nodeItems';

function node(name: string, more: Partial<UaNode> = {}): UaNode {
  return { node: `ns=2;s=${name}`, name, variable: true, value_type: 'float', value: 1, ...more };
}

const answer = (nodes: UaNode[], more = false): Answer => ({
  data: { ok: true, reason: '', nodes, more },
  error: null,
});
const [LINE, SPARE] = [node('Line 1', { variable: false }), node('Spare/1', { variable: false })];
const [HEAD, VACUUM, BLOB] = [node('Head'), node('Vacuum'), node('Blob', { value_type: '' })];
const LINE_ID = `/${encodeURIComponent(LINE.node)}`;
const SPARE_ID = `/${encodeURIComponent(SPARE.node)}`;
const FOUND = new Map([
  ['', answer([LINE, SPARE])],
  [LINE_ID, answer([HEAD, VACUUM, BLOB])],
  [SPARE_ID, answer([HEAD])],
]);
const NONE: ReadonlyMap<string, Chosen> = new Map();

describe('the items of a tree of nodes', () => {
  it('are folders with what is known of them, and lines that say what is not', () => {
    const [line, spare] = nodeItems(
      new Map([
        ['', answer([LINE, SPARE])],
        [SPARE_ID, answer([])],
      ]),
    );
    expect(line?.children?.map((one) => one.label)).toEqual(['Looking …']);
    expect(spare?.children?.map((one) => one.label)).toEqual(['There is nothing here.']);
    expect(nodeOf(spare?.id ?? '')).toBe(SPARE.node);
    expect([line, spare].map((one) => one !== undefined && isSelectable(one))).toEqual([false, false]);
    expect(nodeItems(new Map([['', answer([HEAD], true)]])).at(-1)?.label).toMatch('There are more');
    const down = { data: { ok: false, reason: 'the line is cut', nodes: [], more: false }, error: null };
    expect(nodeItems(new Map([['', down]]))[0]?.label).toBe('No answer: the line is cut');
  });

  it('are ticked where all that a folder has and can be recorded is chosen', () => {
    const items = nodeItems(FOUND);
    const chosen = toggledNodes(items, NONE, [`${LINE_ID}/${encodeURIComponent(VACUUM.node)}`]);
    expect([...chosen.values()]).toEqual([{ node: VACUUM, path: ['Line 1'] }]);
    expect(selectedItems(items, chosen)).not.toContain(LINE_ID);
    const both = toggledNodes(items, chosen, [
      ...selectedItems(items, chosen),
      `${LINE_ID}/${encodeURIComponent(HEAD.node)}`,
    ]);
    expect(selectedItems(items, both)).toContain(LINE_ID);
    expect([...both.keys()]).toEqual([VACUUM.node, HEAD.node]);
  });

  it('are taken back by one of the places in which a node lies', () => {
    const items = nodeItems(FOUND);
    const [first, second] = [LINE_ID, SPARE_ID].map((folder) => `${folder}/${encodeURIComponent(HEAD.node)}`);
    const chosen = toggledNodes(items, NONE, [first ?? '']);
    expect(selectedItems(items, chosen)).toEqual(expect.arrayContaining([first, second]));
    expect(toggledNodes(items, chosen, [first ?? '']).size).toBe(0);
  });
});
