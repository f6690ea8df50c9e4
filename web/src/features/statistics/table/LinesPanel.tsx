/** Which figures the sheet shows, and of which equipment. */
import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import { fill } from '../../../domain/fill';
import { Choice, Panel, Switched } from '../../../ui';
import { Chosen } from '../../../ui/fields/Chosen';
import { shownPieces, type Kind, type Member } from '../sheet/lanes';
import type { Line } from '../sheet/state';
import { statLabel, statProblem } from '../../../entities/stats/labels';
import { StatChoice } from '../../../entities/stats/StatChoice';
import { tagNamesQuery } from '../../../entities/tags';

interface LinesPanelProps {
  kind: Kind;
  lines: readonly Line[];
  pieces: readonly string[];
  onLines: (lines: readonly Line[] | null) => void;
  onPieces: (pieces: readonly string[]) => void;
  onClose: () => void;
}

export function LinesPanel(props: LinesPanelProps): ReactElement {
  const { kind, lines, pieces, onLines, onPieces, onClose } = props;
  // A measurement is what the first statistic has a meaning for.
  const usual = kind.members.find((one) => one.value_type === 'float') ?? kind.members[0];
  const [member, setMember] = useState(usual?.name ?? '');
  const [stat, setStat] = useState('TimeAverage2');
  const there = lines.some((line) => line.member === member && line.stat === stat);
  const states = useStates(kind.members.find((one) => one.name === member));
  return (
    <Panel title={common.figures} width={300} onClose={onClose}>
      <Choice
        label={common.tag}
        value={member}
        options={kind.members.map((one) => ({ value: one.name, label: one.name }))}
        onChange={setMember}
      />
      <StatChoice label={wording.statistic} value={stat} states={states} onChange={setStat} />
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button
          size="small"
          variant="contained"
          disabled={there || statProblem(stat) !== ''}
          onClick={() => onLines([...lines, { member, stat }])}
        >
          {common.add}
        </Button>
        <Button size="small" onClick={() => onLines(null)}>
          {wording.theUsualOnes}
        </Button>
      </Box>
      <Chosen
        label={wording.figuresShown}
        entries={lines.map((line) => ({
          key: `${line.member}~${line.stat}`,
          name: `${line.member}, ${statLabel(line.stat)}`,
        }))}
        onRemove={(key) => onLines(lines.filter((line) => `${line.member}~${line.stat}` !== key))}
      />
      {kind.equipment.length > 1 && <Pieces kind={kind} chosen={pieces} onChange={onPieces} />}
    </Panel>
  );
}

interface PiecesProps {
  kind: Kind;
  chosen: readonly string[];
  onChange: (pieces: readonly string[]) => void;
}

/** Which equipment stands side by side; the last one cannot be left out. */
function Pieces({ kind, chosen, onChange }: PiecesProps): ReactElement {
  const shown = shownPieces(kind, chosen).map(({ name }) => name);
  const put = (name: string, on: boolean): void => {
    const next = kind.equipment.filter((one) => (one === name ? on : shown.includes(one)));
    if (next.length > 0) onChange(next.length === kind.equipment.length ? [] : next);
  };
  return (
    <Box
      role="group"
      aria-label={wording.equipmentShown}
      sx={{ borderTop: 1, borderColor: 'divider', pt: 1 }}
    >
      <Typography component="h3" variant="h3">
        {wording.equipmentShown}
      </Typography>
      <Typography variant="caption" sx={{ color: 'text.secondary' }}>
        {fill(wording.whatIsNormalIsLearntFrom, { equipment: kind.equipment.length })}
      </Typography>
      {shown.length < kind.equipment.length && (
        <Box>
          <Button size="small" onClick={() => onChange([])}>
            {common.showAll}
          </Button>
        </Box>
      )}
      {kind.equipment.map((name) => (
        <Box key={name}>
          <Switched label={name} value={shown.includes(name)} onChange={(on) => put(name, on)} />
        </Box>
      ))}
    </Box>
  );
}

/** Names of the states of a member: of the first piece that has it. */
function useStates(member: Member | undefined): Readonly<Record<string, string>> {
  const first = member?.value_type === 'state' ? member.tags.find((uid) => uid !== null) : undefined;
  const { data } = useQuery({ ...tagNamesQuery([first ?? '']), enabled: first != null });
  return data?.[0]?.states ?? {};
}
