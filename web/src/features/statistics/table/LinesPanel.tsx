/** Which figures the sheet shows. */
import { Box, Button } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { Choice, Panel } from '../../../ui';
import { Chosen } from '../../../ui/Chosen';
import { statLabel, type Kind } from '../sheet/lanes';
import type { Line } from '../sheet/state';
import { COLUMNS } from '../../../entities/figureTexts';

interface LinesPanelProps {
  kind: Kind;
  lines: readonly Line[];
  onLines: (lines: readonly Line[] | null) => void;
  onClose: () => void;
}

export function LinesPanel({ kind, lines, onLines, onClose }: LinesPanelProps): ReactElement {
  const [member, setMember] = useState(kind.members[0]?.name ?? '');
  const [stat, setStat] = useState('TimeAverage2');
  const there = lines.some((line) => line.member === member && line.stat === stat);
  return (
    <Panel title="Figures" width={300} onClose={onClose}>
      <Choice
        label="Tag"
        value={member}
        options={kind.members.map((one) => ({ value: one.name, label: one.name }))}
        onChange={setMember}
      />
      <Choice
        label="Statistic"
        value={stat}
        options={COLUMNS.map((one) => ({ value: one.stat, label: one.label }))}
        onChange={setStat}
      />
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button
          size="small"
          variant="contained"
          disabled={there}
          onClick={() => onLines([...lines, { member, stat }])}
        >
          Add
        </Button>
        <Button size="small" onClick={() => onLines(null)}>
          The usual ones
        </Button>
      </Box>
      <Chosen
        label="Figures shown"
        entries={lines.map((line) => ({
          key: `${line.member}~${line.stat}`,
          name: `${line.member}, ${statLabel(line.stat)}`,
        }))}
        onRemove={(key) => onLines(lines.filter((line) => `${line.member}~${line.stat}` !== key))}
      />
    </Panel>
  );
}
