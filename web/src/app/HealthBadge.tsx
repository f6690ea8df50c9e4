import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as wording from 'texts/app.json';
import { fill } from '../domain/fill';
import type { Health } from '../platform/client';
import { healthQuery } from '../entities/health';
import { plantQuery } from '../entities/plant';
import { lazyPart } from '../ui/lazyPart';
import { faultsOf, STATES } from './health';

export const HealthDetails = lazyPart(
  wording.theDetailsOfHealth,
  async () => (await import('./HealthDetails')).HealthDetails,
);

/** The recorder's health in the top bar; a click opens the details. */
export function HealthBadge(): ReactElement {
  const { data, error } = useQuery(healthQuery);
  const { data: plant } = useQuery(plantQuery);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const failed = error !== null || data === undefined || data.status !== 'ok';
  return (
    <>
      <Button
        size="small"
        color="inherit"
        aria-haspopup="dialog"
        data-testid="health"
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{
          typography: 'body2',
          fontWeight: 400,
          color: failed && data !== undefined ? 'error.main' : 'text.secondary',
        }}
      >
        {error === null ? headline(data) : wording.noAnswerFromTheServer}
      </Button>
      {anchor !== null && (
        <HealthDetails
          anchor={anchor}
          error={error}
          health={data}
          zone={plant?.zone ?? 'UTC'}
          onClose={() => setAnchor(null)}
        />
      )}
    </>
  );
}

function headline(health: Health | undefined): string {
  if (health === undefined) return '…';
  if (health.recorder == null) return wording.databaseAway;
  const up = health.sources.filter((source) => source.state === 'up').length;
  const rate =
    health.recorder.state === 'running' ? ` ${Math.round(health.recorder.samples_per_second ?? 0)}/s` : '';
  const state = STATES[health.recorder.state] ?? health.recorder.state;
  const count = faultsOf(health).length;
  const faults = count === 0 ? '' : fill(wording.faults, { count });
  return fill(wording.stateRateUpOfSourcesSources, {
    state,
    rate,
    up,
    sources: health.sources.length,
    faults,
  });
}
