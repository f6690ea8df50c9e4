/** A value is written to a tag that the trend shows, or that is a guide line of it. */
import type { ReactElement } from 'react';
import * as wording from 'texts/trends.json';
import { valueText } from '../../../domain/format';
import { WriteValue } from '../../../entities/WriteValue';
import type { Tag } from '../../../platform/client';
import { Details, Panel } from '../../../ui';
import type { PenCard } from './PenCards';

interface WritePanelProps {
  tag: Tag;
  cards: readonly PenCard[];
  onClose: () => void;
}

export function WritePanel({ tag, cards, onClose }: WritePanelProps): ReactElement {
  return (
    <Panel title={tag.name} onClose={onClose} width={300}>
      <Details rows={[[wording.presentValue, `${presentText(tag, cards)} ${tag.unit}`]]} />
      <WriteValue tag={tag} />
    </Panel>
  );
}

/** What it is at present, as a pen or as a guide line. */
function presentText({ uid, decimals }: Tag, cards: readonly PenCard[]): string {
  const pen = cards.find((card) => card.trace.tag.uid === uid);
  const of = cards.find(({ guides }) => guides.some((one) => one.uid === uid));
  const value =
    pen === undefined
      ? of?.guideValues[of.guides.findIndex((one) => one.uid === uid)]
      : (pen.now ?? pen.value);
  return valueText(value ?? null, decimals);
}
