/** Which figures the sheet shows. */
import { Close } from '@mui/icons-material';
import { Box, Button, IconButton, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { COLUMNS } from '../../shared/figures';
import { Choice, Panel } from '../../shared/ui';
import { statLabel, type Kind } from './lanes';
import type { Line } from './state';

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
      <Box component="ul" aria-label="Figures shown" sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {lines.map((line) => (
          <Box
            component="li"
            key={`${line.member}~${line.stat}`}
            sx={{ display: 'flex', alignItems: 'center', borderTop: 1, borderColor: 'divider' }}
          >
            <Typography noWrap sx={{ fontSize: 13, flex: 1 }}>
              {line.member} · {statLabel(line.stat)}
            </Typography>
            <IconButton
              size="small"
              aria-label={`Remove ${line.member}, ${statLabel(line.stat)}`}
              onClick={() => onLines(lines.filter((one) => one !== line))}
            >
              <Close sx={{ fontSize: 16 }} />
            </IconButton>
          </Box>
        ))}
      </Box>
    </Panel>
  );
}
