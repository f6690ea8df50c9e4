/** A window of one's own for all figures: typed, or that of a run. */
import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { errorText } from '../../../platform/errors';
import { parseStretch } from '../../../domain/stretch';
import { MINUTE, momentText, type Span } from '../../../domain/time';
import { FormActions, Panel, TextLine, Told } from '../../../ui';
import { runsByTextQuery as runsQuery } from '../../../entities/runs';

interface WindowPanelProps {
  /** The window that is shown: what is typed may leave out what it says. */
  span: Span;
  zone: string;
  onWindow: (span: Span) => void;
  onClose: () => void;
}

export function WindowPanel({ span, zone, onWindow, onClose }: WindowPanelProps): ReactElement {
  const [text, setText] = useState('');
  const [search, setSearch] = useState('');
  const { data: runs = [], error } = useQuery(runsQuery(search.trim()));
  const typed = parseStretch(text, zone, span);
  const over = runs.flatMap((run) =>
    run.end_us === null
      ? []
      : [{ ...run, range: { startUs: Number(run.start_us), endUs: Number(run.end_us) } }],
  );
  return (
    <Panel title="Window" width={300} onClose={onClose} onSubmit={() => typed !== null && onWindow(typed)}>
      <TextLine
        label="From and to"
        value={text}
        onChange={setText}
        placeholder="24.11. 06:00 to 14:00"
        hint="in the plant's zone, or an ISO 8601 interval"
        problem={text.trim() !== '' && typed === null ? 'Write 24.11. 06:00 to 14:00.' : undefined}
      />
      <FormActions save="Show it" busy={false} disabled={typed === null} />
      <Box sx={{ borderTop: 1, borderColor: 'divider', pt: 1 }}>
        <TextLine label="Or a run; find" value={search} onChange={setSearch} placeholder="Line 3 lot" />
        {error !== null && <Told kind="error">{errorText(error)}</Told>}
        <Box component="ul" aria-label="Runs" sx={{ listStyle: 'none', m: 0, p: 0 }}>
          {over.map((run) => (
            <li key={run.uid}>
              <Button
                size="small"
                sx={{ display: 'block', textAlign: 'left', width: '100%' }}
                onClick={() => onWindow(run.range)}
              >
                {run.name}
                <Typography
                  component="span"
                  sx={{ display: 'block', fontSize: 11.5, color: 'text.secondary' }}
                >
                  {momentText(run.range.startUs, zone, MINUTE)} to {momentText(run.range.endUs, zone, MINUTE)}
                </Typography>
              </Button>
            </li>
          ))}
        </Box>
        {over.length === 0 && error === null && <Told>No run that is over.</Told>}
      </Box>
    </Panel>
  );
}
