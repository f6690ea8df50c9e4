/** Why is this tag empty? Every stretch of the last day without data, and its reason, newest first. */
import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as wording from 'texts/setup-tags.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { reasonText } from '../../../domain/reasons';
import { lengthText, momentText } from '../../../domain/time';
import { Told } from '../../../ui';
import { plantQuery } from '../../../entities/plant';
import { coverageQuery } from '../../../entities/coverage';

const MOST_SHOWN = 12;

export function WhyEmpty({ uid }: { uid: string }): ReactElement {
  const [asked, setAsked] = useState(false);
  const { data, error } = useQuery({ ...coverageQuery(uid), enabled: asked });
  const { data: plant } = useQuery(plantQuery);
  const zone = plant?.zone ?? 'UTC';
  if (!asked) {
    return (
      <Box>
        <Button size="small" onClick={() => setAsked(true)}>
          {wording.whyEmpty}
        </Button>
      </Box>
    );
  }
  const gaps = [...(data?.gaps ?? [])].sort((a, b) => Number(b.start_us) - Number(a.start_us));
  return (
    <Box component="section" aria-label={wording.whyEmpty} sx={{ display: 'grid', gap: 0.75 }}>
      <Typography variant="subtitle2">{wording.withoutDataInTheLast24}</Typography>
      {error !== null && <Told kind="error">{errorText(error)}</Told>}
      {data !== undefined && gaps.length === 0 && <Told>{wording.nowhereItWasRecordedAllThe}</Told>}
      {gaps.slice(0, MOST_SHOWN).map((gap) => (
        <Box key={`${gap.start_us} ${gap.reason}`} sx={{ typography: 'caption' }}>
          {reasonText(gap.reason)}
          {gap.detail === '' ? '' : `: ${gap.detail}`}
          <Box sx={{ typography: 'caption', color: 'text.secondary' }}>
            {fill(wording.momentForLength, {
              moment: momentText(Number(gap.start_us), zone),
              length: lengthText(Number(gap.end_us) - Number(gap.start_us)),
            })}
          </Box>
        </Box>
      ))}
      {gaps.length > MOST_SHOWN && (
        <Told>{fill(wording.andRestBefore, { rest: gaps.length - MOST_SHOWN })}</Told>
      )}
    </Box>
  );
}
