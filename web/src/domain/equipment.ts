/** The equipment that a tag belongs to, without its parts: Line 1 of Line 1/Zone 3. */
export function equipmentOf(tag: { equipment: string }): string {
  return tag.equipment.split('/')[0] ?? '';
}
