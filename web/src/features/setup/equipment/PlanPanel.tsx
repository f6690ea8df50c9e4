/** What a change of a class does to each piece; then doing it, with its progress. */
import { Box, Button, LinearProgress, Typography } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useRef, useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-equipment.json';
import { fill } from '../../../domain/fill';
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
    <Panel title={wording.previewOfTheChange} onClose={onClose}>
      {plan === undefined && error === null && <Told>{wording.preparingThePreview}</Told>}
      {failure !== null && (
        <Told kind={cancelled ? 'plain' : 'error'}>
          {cancelled ? wording.cancelledNothingWasWritten : errorText(failure)}
        </Told>
      )}
      {plan !== undefined && (
        <>
          <Told>{planWords(plan)}</Told>
          {looksWords(before, draft).map((text) => (
            <Told key={text}>{fill(wording.textInAllEquipment, { text })}</Told>
          ))}
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button
              size="small"
              variant="contained"
              disabled={doing.isPending}
              onClick={() => doing.mutate()}
            >
              {wording.changeAllOfIt}
            </Button>
            {doing.isPending && (
              <Button size="small" onClick={() => abort.current?.abort()}>
                {common.cancel}
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
      <LinearProgress aria-label={wording.equipmentItemsDone} variant="determinate" value={share} />
      <Typography variant="caption">
        {progress === null
          ? wording.beginning
          : fill(wording.doneOfOfEquipmentItems, { done: progress.done, of: progress.of })}
      </Typography>
    </Box>
  );
}

function ChangedEquipment({ plan }: { plan: Plan }): ReactElement {
  const touched = plan.equipment.filter((one) => one.differences.length + one.removed.length > 0);
  return (
    <Box component="ul" aria-label={wording.changesByEquipment} sx={{ typography: 'caption', m: 0, pl: 2 }}>
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
            <Box key={name}>{fill(wording.nameRemovedItsHistoryStays, { name })}</Box>
          ))}
        </li>
      ))}
      {touched.length > MOST_EQUIPMENT && (
        <li>{fill(common.andRestMore, { rest: touched.length - MOST_EQUIPMENT })}</li>
      )}
    </Box>
  );
}
