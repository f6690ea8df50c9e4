/** One file: what it holds, how far it is, and what can be done with it. */
import { Box, Button, LinearProgress, Typography } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/files.json';
import { fill } from '../../domain/fill';
import { cancelJob, fileLink, isOpen, JOBS, removeJob, type Job } from '../../entities/jobs';
import { momentText } from '../../domain/time';
import { Removal, Told } from '../../ui';
import { contentText, stateText } from './texts';

interface FileItemProps {
  job: Job;
  zone: string;
  onProblem: (error: unknown) => void;
}

export function FileItem({ job, zone, onProblem }: FileItemProps): ReactElement {
  const title = contentText(job, zone);
  return (
    <Box
      component="li"
      aria-label={title}
      sx={{
        display: 'flex',
        flexWrap: 'wrap',
        alignItems: 'center',
        columnGap: 2,
        py: 1,
        borderTop: 1,
        borderColor: 'divider',
      }}
    >
      <Box sx={{ flex: '1 1 260px', minWidth: 0, display: 'grid', gap: 0.25 }}>
        <Typography variant="subtitle2">{title}</Typography>
        <Typography variant="caption" sx={{ color: 'text.secondary' }}>
          {fill(wording.requestedByPersonMoment, {
            person: job.person,
            moment: momentText(Number(job.created_us), zone),
          })}
        </Typography>
      </Box>
      <Box sx={{ flex: '0 1 170px', display: 'grid', gap: 0.5 }}>
        <Typography variant="body2">{stateText(job)}</Typography>
        {job.state === 'running' && (
          <LinearProgress
            variant="determinate"
            value={job.share * 100}
            aria-label={fill(wording.progressOfTitle, { title })}
          />
        )}
      </Box>
      <Actions job={job} onProblem={onProblem} />
      {job.problem !== '' && (
        <Box sx={{ flexBasis: '100%' }}>
          <Told kind="error">{job.problem}</Told>
        </Box>
      )}
    </Box>
  );
}

function Actions({ job, onProblem }: Pick<FileItemProps, 'job' | 'onProblem'>): ReactElement {
  const queries = useQueryClient();
  const doing = useMutation({
    mutationFn: (work: (uid: string) => Promise<void>) => work(job.uid),
    onSuccess: () => onProblem(null),
    onError: onProblem,
    onSettled: () => queries.invalidateQueries({ queryKey: [JOBS] }),
  });
  return (
    <Box
      sx={{
        display: 'flex',
        gap: 1,
        flexWrap: 'wrap',
        flex: '0 1 200px',
        justifyContent: { md: 'flex-end' },
      }}
    >
      {job.file_name !== '' && (
        <Button size="small" component="a" href={fileLink(job)} download>
          {wording.download}
        </Button>
      )}
      {isOpen(job) ? (
        <Button size="small" disabled={doing.isPending} onClick={() => doing.mutate(cancelJob)}>
          {common.cancel}
        </Button>
      ) : (
        <Removal what={wording.file} busy={doing.isPending} onRemove={() => doing.mutate(removeJob)}>
          {wording.theFileIsRemovedWhatWas}
        </Removal>
      )}
    </Box>
  );
}
