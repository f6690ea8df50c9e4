/** How often contacts and states changed, beside their samples. */
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/samples.json';
import { clockText, dayText, HOUR, MINUTE, type Span } from '../../domain/time';
import {
  CHANGE_UNITS,
  changesQuery,
  type ChangesLine,
  type ChangeUnit,
} from '../../entities/samples/changes';
import type { Tag } from '../../platform/client';
import { errorText } from '../../platform/errors';
import { Choice, DataTable, Panel, Told, type Column } from '../../ui';

interface ChangesPanelProps {
  tags: readonly Tag[];
  span: Span;
  windowKey: string;
  /** How often they are asked for anew. */
  everyMs: number | false;
  zone: string;
  onClose: () => void;
}

const OPTIONS = CHANGE_UNITS.map((unit) => ({ value: unit, label: unit }));
const CHANGING: readonly string[] = ['boolean', 'state'];

export function ChangesPanel({
  tags,
  span,
  windowKey,
  everyMs,
  zone,
  onClose,
}: ChangesPanelProps): ReactElement {
  const [unit, setUnit] = useState<ChangeUnit>('day');
  const contacts = tags.filter((tag) => CHANGING.includes(tag.value_type));
  const uids = contacts.map((tag) => tag.uid);
  const { data: lines = [], error } = useQuery(changesQuery(uids, span, unit, windowKey, everyMs));
  const columns: Column<ChangesLine>[] = [
    {
      name: common.from,
      of: ({ startUs }) => startText(startUs, zone),
      value: ({ startUs }) => startText(startUs, zone),
    },
    ...contacts.map((tag): Column<ChangesLine> => ({
      id: tag.uid,
      name: tag.name,
      right: true,
      of: ({ counts }) => counts.get(tag.uid)?.count ?? '–',
      value: ({ counts }) => counts.get(tag.uid)?.count ?? null,
    })),
  ];
  return (
    <Panel title={wording.changesOfContacts} width={340} onClose={onClose}>
      <Choice label={wording.inEach} value={unit} options={OPTIONS} onChange={(next) => setUnit(next)} />
      {error !== null && <Told kind="error">{errorText(error)}</Told>}
      {contacts.length === 0 ? (
        <Told>{wording.noneOfTheTagsIsA}</Told>
      ) : (
        <DataTable
          label={common.changes}
          columns={columns}
          rows={lines}
          keyOf={(line) => String(line.startUs)}
          empty={common.reading}
          keptAs="changes of contacts"
          isInPanel
          {...(lines.length > 1 ? { foot: [totals(uids, lines)] } : {})}
        />
      )}
    </Panel>
  );
}

function totals(
  uids: readonly string[],
  lines: readonly ChangesLine[],
): { name: string; cells: Map<string, string> } {
  const total = (uid: string): string => {
    const counts = lines.map((line) => line.counts.get(uid)?.count ?? null);
    // A sum over stretches of which one is not known would be too small.
    return counts.includes(null) ? '–' : String(counts.reduce<number>((sum, count) => sum + (count ?? 0), 0));
  };
  return { name: common.total, cells: new Map(uids.map((uid) => [uid, total(uid)])) };
}

function startText(us: number, zone: string): string {
  const clock = clockText(us, zone, us % MINUTE === 0 ? HOUR : MINUTE / 60);
  return `${dayText(us, zone)} ${clock}`;
}
