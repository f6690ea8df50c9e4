/** Reports of what is over for longer: from a chosen time on, each shift, day or run is made that was not yet. */
import { Box, Button } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { DAY, momentText, MINUTE } from '../../../domain/time';
import { Told } from '../../../ui';
import { InnerForm } from '../../../ui/InnerForm';
import { MomentField } from '../../../ui/fields/MomentField';
import { say } from '../../../ui/toasts';
import { makeSince, type Report } from '../../../entities/reports';

interface PastReportsProps {
  report: Report;
  zone: string;
  onMade: () => Promise<void>;
}

export function PastReports({ report, zone, onMade }: PastReportsProps): ReactElement {
  const [open, setOpen] = useState(false);
  const first = Number(report.since_us);
  const [since, setSince] = useState<number | null>(null);
  const making = useMutation({
    mutationFn: (us: number) => makeSince(report, us),
    onSuccess: (_, us) => {
      setOpen(false);
      say(
        fill(wording.nameEveryEverySinceMomentIs, {
          name: report.name,
          every: report.every,
          moment: momentText(us, zone, MINUTE),
        }),
      );
      return onMade();
    },
  });
  const make = (): void => {
    if (since !== null && !making.isPending) making.mutate(since);
  };
  if (!open) {
    return (
      <Button
        size="small"
        onClick={() => {
          setSince(first - DAY);
          setOpen(true);
        }}
      >
        {wording.pastReports}
      </Button>
    );
  }
  return (
    <Box role="group" aria-label={fill(wording.pastReportsOfName, { name: report.name })} sx={{ py: 1 }}>
      <InnerForm onEnter={make}>
        <MomentField
          label={wording.eachPeriodThatBeganAtOr}
          first={first - DAY}
          zone={zone}
          onChange={setSince}
          problem={since === null ? wording.writeDayMonthYearAndTime : undefined}
        />
        {making.error !== null && <Told kind="error">{errorText(making.error)}</Told>}
        <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
          <Button
            size="small"
            variant="contained"
            disabled={since === null || making.isPending}
            onClick={make}
          >
            {wording.makePastReports}
          </Button>
          <Button size="small" onClick={() => setOpen(false)}>
            {common.cancel}
          </Button>
        </Box>
      </InnerForm>
    </Box>
  );
}
