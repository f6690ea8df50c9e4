/** A tag that each piece of a class has: its settings, limits, and where it is looked at. */
import { Box, Button, Chip, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-equipment.json';
import {
  DurationLine,
  NumberLine,
  OptionalNumberLine,
  Pairs,
  Panel,
  Switched,
  TextLine,
  Offered,
} from '../../../ui';
import { Addresses } from '../tags/Addresses';
import { isNumber } from './ClassMembers';
import {
  settingText,
  shownValue,
  toggled,
  withSettings,
  withMember,
  withoutMember,
  type ClassIn,
  type Member,
  type Equipment,
} from './equipment';
import { figureIn } from '../../../entities/figures';
import { COLUMNS as STATISTICS } from '../../../entities/figureTexts';
import { figureLine, statLabel, statProblem } from '../../../entities/stats/labels';
import { StatChoice } from '../../../entities/stats/StatChoice';
import { InnerForm } from '../../../ui/InnerForm';

interface MemberPanelProps {
  draft: ClassIn;
  member: Member;
  equipment: readonly Equipment[];
  onDraft: (draft: ClassIn) => void;
  onClose: () => void;
}

export function MemberPanel({ draft, member, equipment, onDraft, onClose }: MemberPanelProps): ReactElement {
  const { key, settings, limits } = member;
  const put = (change: Record<string, unknown>): void => onDraft(withSettings(draft, key, change));
  const [low, high] = limits;
  return (
    <Panel title={key} onClose={onClose}>
      <TextLine
        label={wording.tagNamePattern}
        value={settingText(member, 'name')}
        onChange={(name) => put({ name })}
        hint={wording.nameAndNumberOfTheEquipment}
      />
      <TextLine
        label={common.description}
        value={settingText(member, 'description')}
        onChange={(description) => put({ description })}
      />
      {isNumber(member) && (
        <>
          <Pairs>
            <TextLine
              label={common.engineeringUnit}
              value={settingText(member, 'unit')}
              onChange={(unit) => put({ unit })}
            />
            <NumberLine
              label={common.decimals}
              value={Number(settings['decimals'])}
              onChange={(decimals) => put({ decimals })}
            />
            <NumberLine
              label={common.rangeFrom}
              value={Number(settings['range_low'])}
              onChange={(range_low) => put({ range_low })}
            />
            <NumberLine
              label={common.to}
              value={Number(settings['range_high'])}
              onChange={(range_high) => put({ range_high })}
            />
            <OptionalNumberLine
              label={wording.lowLimit}
              value={low ?? null}
              onChange={(next) => onDraft(withMember(draft, key, { limits: [next, high ?? null] }))}
            />
            <OptionalNumberLine
              label={wording.highLimit}
              value={high ?? null}
              onChange={(next) => onDraft(withMember(draft, key, { limits: [low ?? null, next] }))}
            />
          </Pairs>
          <Typography variant="caption" sx={{ color: 'text.secondary' }}>
            {wording.limitsAreGuideLinesOnThe}
          </Typography>
        </>
      )}
      <DurationLine
        label={common.readEvery}
        value={Number(settings['scan_us'])}
        onChange={(scan_us) => put({ scan_us })}
      />
      <Addresses
        addresses={member.addresses}
        onChange={(addresses) => onDraft(withMember(draft, key, { addresses }))}
      />
      <Switched
        label={wording.onTheTrendSheet}
        value={draft.trend.includes(key)}
        onChange={() => onDraft({ ...draft, trend: toggled(draft.trend, key) })}
      />
      <CardFigures draft={draft} member={member} onDraft={onDraft} />
      <OwnSettings equipment={equipment} member={key} />
      <Box>
        <Offered>
          {' '}
          <Button size="small" color="error" onClick={() => onDraft(withoutMember(draft, key))}>
            {wording.removeFromTheClass}
          </Button>
        </Offered>
      </Box>
    </Panel>
  );
}

function CardFigures({
  draft,
  member,
  onDraft,
}: Pick<MemberPanelProps, 'draft' | 'member' | 'onDraft'>): ReactElement {
  const [other, setOther] = useState('Percentile 95');
  const mine = draft.card.filter((one) => one.member === member.key).map(lineOf);
  const usual = STATISTICS.map(({ stat }) => stat);
  const toggle = (stat: string): void =>
    onDraft({
      ...draft,
      card: mine.includes(stat)
        ? draft.card.filter((one) => one.member !== member.key || lineOf(one) !== stat)
        : [...draft.card, { member: member.key, stat, parameters: {} }],
    });
  return (
    <Box role="group" aria-label={wording.onTheStatisticsCard} sx={{ display: 'grid', gap: 1 }}>
      <Typography variant="caption" sx={{ color: 'text.secondary' }}>
        {wording.onTheStatisticsCard}
      </Typography>
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5 }}>
        {[...usual, ...mine.filter((stat) => !usual.includes(stat))].map((stat) => (
          <Chip
            key={stat}
            size="small"
            label={statLabel(stat)}
            clickable
            aria-pressed={mine.includes(stat)}
            variant={mine.includes(stat) ? 'filled' : 'outlined'}
            onClick={() => toggle(stat)}
          />
        ))}
      </Box>
      <InnerForm onEnter={() => statProblem(other) === '' && !mine.includes(other) && toggle(other)}>
        <Box sx={{ display: 'grid', gap: 1 }}>
          <StatChoice label={wording.anotherStatistic} value={other} onChange={setOther} />
          <Box>
            <Button
              size="small"
              disabled={mine.includes(other) || statProblem(other) !== ''}
              onClick={() => toggle(other)}
            >
              {wording.addToTheCard}
            </Button>
          </Box>
        </Box>
      </InnerForm>
    </Box>
  );
}

/** A figure of a card with its options in one line. */
function lineOf({ stat, parameters }: ClassIn['card'][number]): string {
  return figureLine({ ...figureIn(stat), ...parameters });
}

function OwnSettings({
  equipment,
  member,
}: {
  equipment: readonly Equipment[];
  member: string;
}): ReactElement | null {
  const own = equipment.flatMap((row) =>
    Object.entries(row.overrides['tags']?.[member] ?? {}).map(([name, value]) => ({ row, name, value })),
  );
  if (own.length === 0) return null;
  return (
    <Box>
      <Typography variant="caption" sx={{ color: 'text.secondary' }}>
        {wording.overriddenIn}
      </Typography>
      {own.map(({ row, name, value }) => (
        <Typography key={`${row.uid} ${name}`} variant="caption">
          {row.name}: {name.replaceAll('_', ' ')} {shownValue(value)}
        </Typography>
      ))}
    </Box>
  );
}
