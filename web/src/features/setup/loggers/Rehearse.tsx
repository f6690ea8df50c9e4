/** Rehearse: two rules side by side on the same readings, what each keeps and loses, before one is saved. */
import { Box, Button, Typography } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-loggers.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { HOUR, DAY, MINUTE } from '../../../domain/time';
import { Choice, DataTable, DurationLine, Pairs, Told } from '../../../ui';
import type { Address } from '../common/protocols';
import { AddressFields } from '../tags/AddressFields';
import { RehearseChart } from './RehearseChart';
import { KEEPS } from './loggerForm';
import { FIRST_RULE, RuleFields } from './RuleFields';
import type { ClockRule, Rehearsal, Rule } from '../../../entities/loggers';
import type { Signal } from '../../../entities/sources';
import { tagNamesQuery } from '../../../entities/tags';
import { rehearse } from '../../../entities/loggers';

/** What a logger keeps: on change, or by the clock. */
export type Tried = Rule | ClockRule;

export interface Rehearsing {
  rule: Tried;
  tags: readonly string[];
}

interface RehearseViewProps {
  rehearsing: Rehearsing;
  onClose: () => void;
  onTake: (rule: Tried) => void;
}

const WINDOWS = [
  { value: String(10 * MINUTE), label: wording.theLast10Min },
  { value: String(HOUR), label: wording.theLastHour },
  { value: String(8 * HOUR), label: wording.theLast8H },
  { value: String(DAY), label: wording.theLastDay },
  { value: String(7 * DAY), label: wording.theLast7Days },
];
const GENERATOR = 'generator';
const FILE = 'file';
const FIRST_SIGNAL: Signal = {
  shape: 'random_walk',
  period_s: 1800,
  low: 0,
  high: 100,
  noise: 0.5,
  seed: 0,
};

export function RehearseView({ rehearsing, onClose, onTake }: RehearseViewProps): ReactElement {
  const uids = rehearsing.tags.slice(0, 60);
  const { data: tags = [] } = useQuery(tagNamesQuery(uids));
  const [on, setOn] = useState(uids[0] ?? GENERATOR);
  const [length, setLength] = useState(String(HOUR));
  const [address, setAddress] = useState<Address>(FIRST_SIGNAL);
  const [csv, setCsv] = useState<{ name: string; text: string } | null>(null);
  const [rules, setRules] = useState<[Tried, Tried]>(() => [rehearsing.rule, another(rehearsing.rule)]);
  const trying = useMutation({
    mutationFn: async () => {
      const end = Date.now() * 1000;
      const window = { start_us: String(end - Number(length)), end_us: String(end) };
      const material =
        on === FILE
          ? { csv: csv?.text ?? '' }
          : on === GENERATOR
            ? { generator: address as Signal, ...window }
            : { tag: on, ...window };
      const body = { stepped: false, width: 800, ...material, rules };
      return rehearse(body);
    },
  });
  const put = (i: 0 | 1, rule: Tried): void => setRules(i === 0 ? [rule, rules[1]] : [rules[0], rule]);
  return (
    <Box component="section" aria-label={wording.rehearse} sx={{ display: 'grid', gap: 2, maxWidth: 1000 }}>
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'flex-end', flexWrap: 'wrap' }}>
        <Box sx={{ width: 280 }}>
          <Choice
            label={wording.rehearseOn}
            value={on}
            options={[
              ...tags.map((tag) => ({ value: tag.uid, label: tag.name })),
              { value: GENERATOR, label: wording.aGeneratedSignal },
              { value: FILE, label: wording.aCsvFile },
            ]}
            onChange={setOn}
          />
        </Box>
        {on === FILE ? (
          <Button size="small" variant="outlined" component="label">
            {csv?.name ?? common.chooseAFile}
            <input
              hidden
              type="file"
              accept=".csv"
              aria-label={wording.csvFile}
              onChange={(event) => {
                const file = event.target.files?.[0];
                if (file !== undefined) void file.text().then((text) => setCsv({ name: file.name, text }));
              }}
            />
          </Button>
        ) : (
          <Box sx={{ width: 160 }}>
            <Choice label={wording.over} value={length} options={WINDOWS} onChange={setLength} />
          </Box>
        )}
        <Button size="small" variant="contained" disabled={trying.isPending} onClick={() => trying.mutate()}>
          {trying.isPending ? wording.rehearsing : wording.rehearse}
        </Button>
        <Button size="small" onClick={onClose}>
          {wording.backToTheList}
        </Button>
      </Box>
      {on === GENERATOR && (
        <AddressFields wide protocol={GENERATOR} address={address} onChange={setAddress} />
      )}
      {trying.error !== null && <Told kind="error">{errorText(trying.error)}</Told>}
      {trying.data !== undefined && (
        <Found found={trying.data} onTake={onTake} onTakeRule={(i) => onTake(rules[i])} />
      )}
      <Box sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', lg: '1fr 1fr' }, gap: 3 }}>
        {([0, 1] as const).map((i) => (
          <Box key={i} sx={{ display: 'grid', gap: 1.5, alignContent: 'start' }}>
            <Typography variant="subtitle2">{fill(wording.ruleNumber, { number: i + 1 })}</Typography>
            <TriedFields rule={rules[i]} onChange={(rule) => put(i, rule)} />
          </Box>
        ))}
      </Box>
    </Box>
  );
}

function another(rule: Tried): Tried {
  if (rule.kind === 'periodic') return FIRST_RULE;
  return rule.kind === 'line'
    ? { ...rule, kind: 'change' }
    : {
        ...rule,
        kind: 'line',
        width: rule.width || 0.5,
        rate_limit_us: 0,
        keep_extremes: false,
        stamp_kept: false,
      };
}

const WAYS = [
  { value: 'change', label: common.onChange },
  { value: 'periodic', label: common.periodic },
];

/** A rule on change or by the clock. */
function TriedFields({ rule, onChange }: { rule: Tried; onChange: (rule: Tried) => void }): ReactElement {
  const periodic = rule.kind === 'periodic';
  return (
    <>
      <Choice
        label={common.when}
        value={periodic ? 'periodic' : 'change'}
        options={WAYS}
        onChange={(way) => onChange(way === 'periodic' ? FIRST_CLOCK : FIRST_RULE)}
      />
      {periodic ? (
        <Pairs>
          <DurationLine
            label={common.every}
            value={rule.interval_us}
            onChange={(interval_us) => onChange({ ...rule, interval_us })}
            onMistyped={(text) => onChange({ ...rule, interval_us: text as unknown as number })}
          />
          <Choice
            label={wording.storedValue}
            value={rule.keeps}
            options={KEEPS}
            onChange={(keeps) => onChange({ ...rule, keeps: keeps as ClockRule['keeps'] })}
          />
        </Pairs>
      ) : (
        <RuleFields rule={rule} onChange={onChange} />
      )}
    </>
  );
}

const FIRST_CLOCK: ClockRule = { kind: 'periodic', interval_us: 10_000_000, phase_us: 0, keeps: 'value' };

interface FoundProps {
  found: Rehearsal;
  onTake: (rule: Tried) => void;
  onTakeRule: (i: 0 | 1) => void;
}

function Found({ found, onTake, onTakeRule }: FoundProps): ReactElement {
  return (
    <Box sx={{ display: 'grid', gap: 1 }}>
      <RehearseChart found={found} />
      <Comparison found={found} onTake={onTakeRule} />
      <Typography variant="caption" sx={{ color: 'text.secondary' }}>
        {fill(wording.readingsReadingsNote, { readings: found.readings, note: found.note })}
      </Typography>
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'center' }}>
        <Told>{found.advice.reason}</Told>
        <Button size="small" onClick={() => onTake(found.advice.rule)} sx={{ flexShrink: 0 }}>
          {wording.useThisAdvice}
        </Button>
      </Box>
    </Box>
  );
}

/** What each rule costs and loses, under the picture of both. */
function Comparison({ found, onTake }: { found: Rehearsal; onTake: (i: 0 | 1) => void }): ReactElement {
  const rows = found.rehearsals.map((one, i) => ({ ...one, i }));
  return (
    <DataTable
      label={wording.bothRules}
      columns={[
        { name: wording.rule, of: (row) => row.i + 1 },
        { name: wording.kept, of: keptText, right: true },
        { name: wording.largestError, of: (row) => number(row.largest_error), right: true },
        { name: wording.rMSError, of: (row) => number(row.rms_error), right: true },
        { name: wording.missedEdges, of: (row) => row.missed_edges, right: true },
        {
          name: common.samplesADay,
          of: (row) => Math.round(row.samples_per_day).toLocaleString('en-GB'),
          right: true,
        },
        { name: common.mbAYear, of: (row) => number(row.megabytes_per_year), right: true },
        {
          name: wording.useIt,
          of: (row) => (
            <Button size="small" onClick={() => onTake(row.i === 0 ? 0 : 1)}>
              {fill(wording.useRuleNumber, { number: row.i + 1 })}
            </Button>
          ),
        },
      ]}
      rows={rows}
      keyOf={(row) => String(row.i)}
      empty=""
    />
  );
}

/** By the clock more may be kept than there are readings: a share of them says nothing then. */
function keptText({ kept, share }: Rehearsal['rehearsals'][number]): string {
  return share > 1 ? String(kept) : `${kept}, ${(100 * share).toFixed(1)} %`;
}

function number(value: number): string {
  return value === 0 ? '0' : Number(value.toPrecision(3)).toString();
}
