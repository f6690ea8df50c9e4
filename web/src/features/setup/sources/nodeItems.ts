/** What a server has as the items of a tree, as far as it is known. */
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-sources.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import type { Nodes, UaNode } from '../../../entities/sources';

/** A chosen variable, and the names of the folders that lead to it. */
export interface Chosen {
  node: UaNode;
  path: readonly string[];
}

export interface NodeItem {
  /** The way to it: a node may lie in several folders. */
  id: string;
  label: string;
  /** As it is shown; empty for a folder. */
  value: string;
  /** Null: a line that says something, and is no node. */
  node: UaNode | null;
  path: readonly string[];
  children?: NodeItem[];
}

/** What is known of a folder: nothing yet, its nodes, or why they are not known. */
export interface Answer {
  data?: Nodes | undefined;
  error: Error | null;
}

/** The folder that everything lies in. */
export const ROOT = '';

/** The node that an item is of, by the item's id. */
export function nodeOf(id: string): string {
  return decodeURIComponent(id.split('/').at(-1) ?? '');
}

/** The items of a folder; `found` is by the ids of folders. */
export function nodeItems(
  found: ReadonlyMap<string, Answer | undefined>,
  folder: string = ROOT,
  path: readonly string[] = [],
): NodeItem[] {
  const answer = found.get(folder);
  const line = (label: string): NodeItem => ({ id: `${folder}/`, label, value: '', node: null, path });
  if (answer?.error) return [line(errorText(answer.error))];
  const data = answer?.data;
  if (data === undefined) return [line(common.looking)];
  if (!data.ok) return [line(fill(wording.noAnswerReason, { reason: data.reason }))];
  if (data.nodes.length === 0) return [line(wording.thereIsNothingHere)];
  const items = data.nodes.map((node): NodeItem => {
    const id = `${folder}/${encodeURIComponent(node.node)}`;
    const item = { id, label: node.name, value: valueText(node), node, path };
    return node.variable ? item : { ...item, children: nodeItems(found, id, [...path, node.name]) };
  });
  return data.more ? [...items, line(wording.thereAreMoreNameTheNode)] : items;
}

/** A variable that can be recorded, or a folder of which such variables are known. */
export function isSelectable(item: NodeItem): boolean {
  return variablesOf([item]).length > 0;
}

/** Ids of what is ticked: chosen variables, and folders all of whose variables are chosen. */
export function selectedItems(items: readonly NodeItem[], chosen: ReadonlyMap<string, Chosen>): string[] {
  return items.flatMap((item) => {
    const variables = variablesOf([item]);
    const isWhole = variables.length > 0 && variables.every(({ node }) => chosen.has(node.node));
    return [...(isWhole ? [item.id] : []), ...selectedItems(item.children ?? [], chosen)];
  });
}

/** What is chosen once the ticked items are those. */
export function toggledNodes(
  items: readonly NodeItem[],
  chosen: ReadonlyMap<string, Chosen>,
  ticked: readonly string[],
): Map<string, Chosen> {
  const next = new Map(chosen);
  const before = new Set(selectedItems(items, chosen));
  const after = new Set(ticked);
  for (const { id, node, path } of variablesOf(items)) {
    if (before.has(id) === after.has(id)) continue;
    if (after.has(id)) next.set(node.node, { node, path });
    else next.delete(node.node);
  }
  return next;
}

/** The variables among items, and in their folders, that can be recorded. */
function variablesOf(items: readonly NodeItem[]): (NodeItem & { node: UaNode })[] {
  return items.flatMap(({ children, node, ...item }) => {
    if (children !== undefined) return variablesOf(children);
    return node === null || node.value_type === '' ? [] : [{ ...item, node }];
  });
}

function valueText(node: UaNode): string {
  if (!node.variable) return '';
  if (node.value_type === '') return wording.cannotBeRecorded;
  return typeof node.value === 'number' && !Number.isInteger(node.value)
    ? String(Number(node.value.toPrecision(6)))
    : String(node.value);
}
