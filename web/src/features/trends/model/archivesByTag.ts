/** By tag, the archives that are chosen for pens. */
export const archivesByTag = (
  cards: readonly { archive: string; trace: { tag: { uid: string } } }[],
): Record<string, string> =>
  Object.fromEntries(
    cards.filter((card) => card.archive !== '').map((card) => [card.trace.tag.uid, card.archive]),
  );
