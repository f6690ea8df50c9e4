/** The equipment that tags belong to, as a tree with the number of tags in and below each piece. */

export interface EquipmentItem {
  /** Its path: Line 1/Zone 2. */
  id: string;
  label: string;
  tags: number;
  children: EquipmentItem[];
}

/** Stands for all tags, with equipment and without. */
export const ALL = '*';

export function equipmentItems(equipment: readonly { path: string; tags: number }[]): EquipmentItem[] {
  const roots: EquipmentItem[] = [];
  const byPath = new Map<string, EquipmentItem>();
  for (const { path, tags } of equipment) {
    let siblings = roots;
    let id = '';
    for (const label of path.split('/').filter(Boolean)) {
      id = id === '' ? label : `${id}/${label}`;
      const item = byPath.get(id) ?? { id, label, tags: 0, children: [] };
      if (!byPath.has(id)) siblings.push(item);
      byPath.set(id, item);
      item.tags += tags;
      siblings = item.children;
    }
  }
  return sorted(roots);
}

const BY_NAME = new Intl.Collator('en', { numeric: true });

/** Line 2 before Line 10. */
function sorted(items: EquipmentItem[]): EquipmentItem[] {
  return items
    .map((item) => ({ ...item, children: sorted(item.children) }))
    .sort((a, b) => BY_NAME.compare(a.label, b.label));
}

/** The pieces above one, which have to be open for it to be seen. */
export function above(path: string): string[] {
  const parts = path.split('/');
  return parts.slice(0, -1).map((_, i) => parts.slice(0, i + 1).join('/'));
}
