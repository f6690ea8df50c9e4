/** What stands in a table: which tags, which statistics, and over which stretches of time. */
import { Box, Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import { fill } from '../../../domain/fill';
import type { Tag } from '../../../platform/client';
import { errorText } from '../../../platform/errors';
import { MINUTE, momentText } from '../../../domain/time';
import { Choice, Panel, Switched, TextLine, Told } from '../../../ui';
import { Chosen } from '../../../ui/fields/Chosen';
import { type Kind } from '../sheet/lanes';
import { statLabel, statProblem } from '../../../entities/stats/labels';
import {
  MOST_ROWS,
  MOST_RUNS,
  MOST_STATS,
  STRETCHES,
  type SheetState,
  type StretchKind,
} from '../sheet/state';
import { usualStats } from './table';
import { StatChoice } from '../../../entities/stats/StatChoice';
import { TagChoice } from '../../../entities/TagChoice';
import { runsByTextQuery as runsQuery } from '../../../entities/runs';

interface TablePanelProps {
  state: SheetState;
  tags: readonly Tag[];
  kinds: readonly Kind[];
  shifts: readonly { name: string }[];
  zone: string;
  onChange: (change: Partial<SheetState>) => void;
  onClose: () => void;
}

export function TablePanel(props: TablePanelProps): ReactElement {
  const { state, onClose } = props;
  return (
    <Panel title={common.table} width={300} onClose={onClose}>
      {state.form === 'stretches' && <Stretches {...props} />}
      <Tags {...props} />
      <Stats {...props} />
    </Panel>
  );
}

function Tags({ tags, kinds, onChange }: TablePanelProps): ReactElement {
  const uids = tags.map((tag) => tag.uid);
  const put = (next: readonly string[]): void => onChange({ tags: next.slice(0, MOST_ROWS), order: null });
  const pieces = kinds.flatMap((kind) => kind.equipment.map((name, place) => ({ name, place, kind })));
  const numbersOf = (name: string): string[] => {
    const piece = pieces.find((one) => one.name === name);
    return (piece?.kind.members ?? [])
      .filter((member) => member.value_type === 'float')
      .flatMap((member) => member.tags[piece?.place ?? 0] ?? []);
  };
  return (
    <>
      <TagChoice
        adds
        label={common.addATag}
        value={null}
        none={wording.findByName}
        onChange={(uid) => uid !== null && !uids.includes(uid) && put([...uids, uid])}
      />
      <Choice
        label={wording.orAllMeasurementsOf}
        value=""
        options={[
          { value: '', label: wording.equipment },
          ...pieces.map(({ name }) => ({ value: name, label: name })),
        ]}
        onChange={(name) => name !== '' && put(numbersOf(name))}
      />
      <Chosen
        label={wording.tagsShown}
        entries={tags.map(({ uid, name }) => ({ key: uid, name }))}
        onRemove={(uid) => put(uids.filter((one) => one !== uid))}
      />
    </>
  );
}

function Stats({ state, tags, onChange }: TablePanelProps): ReactElement {
  const [chosen, setChosen] = useState('Median');
  const stats = usualStats(state);
  const put = (next: readonly string[]): void => onChange({ stats: next.slice(0, MOST_STATS), order: null });
  const states = tags.find((tag) => tag.value_type === 'state')?.states ?? {};
  return (
    <>
      <StatChoice label={wording.statistic} value={chosen} states={states} onChange={setChosen} />
      <Box>
        <Button
          size="small"
          variant="contained"
          disabled={stats.includes(chosen) || statProblem(chosen) !== ''}
          onClick={() => put([...stats, chosen])}
        >
          {wording.addStatistic}
        </Button>
      </Box>
      <Chosen
        label={wording.statisticsShown}
        entries={stats.map((stat) => ({ key: stat, name: statLabel(stat) }))}
        onRemove={(stat) => put(stats.filter((one) => one !== stat))}
      />
    </>
  );
}

const PER_WORDS: Record<StretchKind, string> = {
  auto: wording.roundLengthsAtMost24,
  hour: common.hours,
  shift: 'shifts',
  day: wording.days,
};

function Stretches(props: TablePanelProps): ReactElement {
  const { state, shifts, onChange } = props;
  const value = state.shift === '' ? state.per : fill(wording.onlyShift, { shift: state.shift });
  const choose = (chosen: string): void => {
    const per = STRETCHES.find((one) => one === chosen);
    onChange({
      ...(per === undefined ? { per: 'shift', shift: chosen.slice(5) } : { per, shift: '' }),
      runs: [],
      order: null,
    });
  };
  return (
    <>
      <Choice
        label={wording.stretchesOfTheWindow}
        value={state.runs.length > 0 ? 'runs' : value}
        options={[
          ...(state.runs.length > 0 ? [{ value: 'runs', label: wording.theRunsBelow }] : []),
          ...STRETCHES.map((one) => ({ value: one, label: PER_WORDS[one] })),
          ...shifts.map(({ name }) => ({
            value: `only ${name}`,
            label: fill(wording.nameDayAfterDay, { name }),
          })),
        ]}
        onChange={choose}
      />
      {shifts.length > 0 && (
        <Box>
          <Button size="small" onClick={() => onChange(LAST_SHIFTS)}>
            {wording.theLast7Shifts}
          </Button>
        </Box>
      )}
      <Runs {...props} />
    </>
  );
}

const LAST_SHIFTS: Partial<SheetState> = {
  window: { kind: 'unit', unit: 'shift', which: 'last', count: 7 },
  ...{ per: 'shift', shift: '', runs: [], order: null },
};

function Runs({ state, zone, onChange }: TablePanelProps): ReactElement {
  const [search, setSearch] = useState('');
  const { data: runs = [], error } = useQuery(runsQuery(search.trim()));
  const put = (next: readonly string[]): void => onChange({ runs: next.slice(0, MOST_RUNS), order: null });
  return (
    <Box>
      <TextLine
        label={wording.orRunsSideBySideFind}
        value={search}
        onChange={setSearch}
        placeholder={common.line3Lot}
      />
      {error !== null && <Told kind="error">{errorText(error)}</Told>}
      {state.runs.length > 0 && (
        <Button size="small" onClick={() => put([])}>
          {fill(wording.withoutRunsRunsChosen, { runs: state.runs.length })}
        </Button>
      )}
      <Box
        component="ul"
        aria-label={common.runs}
        sx={{ listStyle: 'none', m: 0, p: 0, pl: 1.25, maxHeight: 180, overflow: 'auto' }}
      >
        {runs.map(({ uid, name, start_us }) => (
          <li key={uid}>
            <Switched
              label={`${name}, ${momentText(Number(start_us), zone, MINUTE)}`}
              value={state.runs.includes(uid)}
              onChange={(on) => put(on ? [...state.runs, uid] : state.runs.filter((one) => one !== uid))}
            />
          </li>
        ))}
      </Box>
    </Box>
  );
}
