/** What a change of a class does to each piece; then doing it, with its progress. */
import { Box, Button, LinearProgress, Typography } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useRef, useState, type ReactElement } from 'react';
import { errorText } from '../../../platform/errors';
import { Panel, Told } from '../../../ui';
import { looksWords, planWords, shownValue, type ClassIn, type Plan } from './equipment';
import { SETUP } from '../../../entities/setup';
import { classPlanQuery, saveClass } from '../../../entities/equipment';

const MOST_EQUIPMENT = 100;
const MOST_EACH = 50;

interface PlanPanelProps {
  uid: string;
  before: ClassIn;
  draft: ClassIn;
  onClose: () => void;
  onDone: () => void;
}

export function PlanPanel({ uid, before, draft, onClose, onDone }: PlanPanelProps): ReactElement {
  const { data: plan, error } = useQuery(classPlanQuery(uid, draft));
  const queries = useQueryClient();
  const [progress, setProgress] = useState<{ done: number; of: number } | null>(null);
  const abort = useRef<AbortController | null>(null);
  const doing = useMutation({
    mutationFn: async () => {
      abort.current = new AbortController();
      const told = (done: number, of: number): void => setProgress({ done, of });
      return saveClass(uid, draft, told, abort.current.signal);
    },
    onSuccess: async () => {
      onDone();
      await queries.invalidateQueries({ queryKey: [SETUP] });
      await queries.invalidateQueries({ queryKey: ['tags'] });
    },
    onSettled: () => setProgress(null),
  });
  const failure = doing.error ?? error;
  const cancelled = failure instanceof DOMException && failure.name === 'AbortError';
  return (
    <Panel title="What the change does" onClose={onClose}>
      {plan === undefined && error === null && <Told>Working it out …</Told>}
      {failure !== null && (
        <Told kind={cancelled ? 'plain' : 'error'}>
          {cancelled ? 'Cancelled: nothing was written.' : errorText(failure)}
        </Told>
      )}
      {plan !== undefined && (
        <>
          <Told>{planWords(plan)}</Told>
          {looksWords(before, draft).map((text) => (
            <Told key={text}>{text}, in all equipment.</Told>
          ))}
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button
              size="small"
              variant="contained"
              disabled={doing.isPending}
              onClick={() => doing.mutate()}
            >
              Do it to all
            </Button>
            {doing.isPending && (
              <Button size="small" onClick={() => abort.current?.abort()}>
                Cancel
              </Button>
            )}
          </Box>
          {doing.isPending && <Doing progress={progress} />}
          <ChangedEquipment plan={plan} />
        </>
      )}
    </Panel>
  );
}

function Doing({ progress }: { progress: { done: number; of: number } | null }): ReactElement {
  const share = progress === null || progress.of === 0 ? 0 : (100 * progress.done) / progress.of;
  return (
    <Box>
      <LinearProgress aria-label="Pieces done" variant="determinate" value={share} />
      <Typography variant="caption">
        {progress === null ? 'Beginning …' : `${progress.done} of ${progress.of} equipment items`}
      </Typography>
    </Box>
  );
}

function ChangedEquipment({ plan }: { plan: Plan }): ReactElement {
  const touched = plan.equipment.filter((one) => one.differences.length + one.removed.length > 0);
  return (
    <Box component="ul" aria-label="Changes by equipment" sx={{ typography: 'caption', m: 0, pl: 2 }}>
      {touched.slice(0, MOST_EQUIPMENT).map((row) => (
        <li key={row.uid}>
          <strong>{row.name}</strong>
          {row.differences.slice(0, MOST_EACH).map((one) => (
            <Box key={one.uid}>
              {one.kind} {one.name}: {one.action}
              {one.changes.map((field) => (
                <Box key={field.name} sx={{ color: 'text.secondary', wordBreak: 'break-word' }}>
                  {field.name.replaceAll('_', ' ')}: <s>{shownValue(field.before)}</s> →{' '}
                  {shownValue(field.after)}
                </Box>
              ))}
            </Box>
          ))}
          {row.removed.map((name) => (
            <Box key={name}>{name}: removed, its history stays</Box>
          ))}
        </li>
      ))}
      {touched.length > MOST_EQUIPMENT && <li>and {touched.length - MOST_EQUIPMENT} more</li>}
    </Box>
  );
}
