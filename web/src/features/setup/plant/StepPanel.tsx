/** A step of changes: each object before and after it, and how it is taken back. */
import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as wording from 'texts/setup-plant.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { Panel, Told, Offered } from '../../../ui';
import { MOST_OF_STEP, restoreChange, stepQuery, undoStep, type Change } from '../../../entities/setup';
import { useSave } from '../common/useSave';
import { fieldChanges, shown, type FieldChange } from './changeTexts';

interface StepPanelProps {
  /** One of its changes. */
  changeId: number;
  onClose: () => void;
}

export function StepPanel({ changeId, onClose }: StepPanelProps): ReactElement {
  const { data: changes = [], error } = useQuery(stepQuery(changeId));
  const [first] = changes;
  const isOne = changes.length === 1;
  return (
    <Panel
      title={isOne && first !== undefined ? `${first.name}: ${first.action}` : wording.oneStep}
      onClose={onClose}
    >
      {error !== null && <Told kind="error">{errorText(error)}</Told>}
      {changes.length > 1 && (
        <Offered>
          <UndoAll changeId={changeId} />
        </Offered>
      )}
      {changes.map((change) => (
        <Box key={change.change_id} sx={isOne ? {} : { borderTop: 1, borderColor: 'divider', pt: 1 }}>
          {!isOne && (
            <Typography variant="body2" sx={{ fontWeight: 700 }}>
              {change.name}: {change.action}
            </Typography>
          )}
          <Differences change={change} />
          {change.before != null && (
            <Offered>
              <Restore change={change} />
            </Offered>
          )}
        </Box>
      ))}
      {changes.length === MOST_OF_STEP && (
        <Told>{fill(wording.theFirstValueOfThemAre, { value: MOST_OF_STEP })}</Told>
      )}
    </Panel>
  );
}

/** Takes all of it back; that is a step of its own, on record like any other. */
function UndoAll({ changeId }: { changeId: number }): ReactElement {
  const undoing = useSave(() => undoStep(changeId));
  return (
    <>
      <Box>
        <Button size="small" variant="outlined" disabled={undoing.busy} onClick={() => undoing.run(null)}>
          {wording.undoTheWholeStep}
        </Button>
      </Box>
      {undoing.done && <Told kind="good">{wording.doneItTakesEffectWithin2}</Told>}
      {undoing.general !== null && <Told kind="error">{undoing.general}</Told>}
    </>
  );
}

/** Gives the object the form it had before; that is a change of its own, on record like any other. */
function Restore({ change }: { change: Change }): ReactElement {
  const restoring = useSave(() => restoreChange(change.change_id));
  return (
    <>
      <Box>
        <Button size="small" variant="outlined" disabled={restoring.busy} onClick={() => restoring.run(null)}>
          {change.after == null
            ? fill(wording.bringNameBack, { name: change.name })
            : wording.restoreWhatWasBefore}
        </Button>
      </Box>
      {restoring.done && <Told kind="good">{wording.doneItTakesEffectWithin2}</Told>}
      {restoring.general !== null && <Told kind="error">{restoring.general}</Told>}
    </>
  );
}

function Differences({ change }: { change: Change }): ReactElement {
  const { before, after } = change;
  const whole = after ?? before ?? {};
  const rows: Partial<FieldChange>[] =
    before == null || after == null
      ? Object.entries(whole).map(([name, value]) =>
          after == null ? { name, before: value } : { name, after: value },
        )
      : fieldChanges(change);
  return (
    <>
      {rows.map((row) => (
        <Box key={row.name}>
          <Typography variant="caption" sx={{ color: 'text.secondary' }}>
            {row.name?.replaceAll('_', ' ')}
          </Typography>
          {'before' in row && (
            <Typography component="s" variant="body2" sx={{ display: 'block', wordBreak: 'break-word' }}>
              {shown(row.before)}
            </Typography>
          )}
          {'after' in row && (
            <Typography variant="body2" sx={{ wordBreak: 'break-word' }}>
              {shown(row.after)}
            </Typography>
          )}
        </Box>
      ))}
    </>
  );
}
