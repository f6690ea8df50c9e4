/** Files that the worker makes: how far each is, and where it is fetched. */
import { Box, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { errorText } from '../../platform/errors';
import { jobsQuery } from '../../entities/jobs';
import { Told } from '../../ui';
import { FileItem } from './FileItem';
import { plantQuery } from '../../entities/plant';

export function FilesPage(): ReactElement {
  const { data: plant } = useQuery(plantQuery);
  const { data: jobs, error } = useQuery(jobsQuery);
  const [failed, setFailed] = useState<unknown>(null);
  const problem = failed ?? error;
  return (
    <Box sx={{ px: 2, py: 1, display: 'grid', gap: 1, alignContent: 'start', maxWidth: 900 }}>
      <Typography component="h1" variant="h1">
        Files
      </Typography>
      <Typography variant="body2" sx={{ color: 'text.secondary' }}>
        Request a file on a trend with Export, Prepare in the background. It is kept here for a week.
      </Typography>
      {problem !== null && <Told kind="error">{errorText(problem)}</Told>}
      {jobs?.length === 0 && (
        <Typography variant="body2" sx={{ py: 2 }}>
          There are no files.
        </Typography>
      )}
      <Box component="ul" aria-label="Files" sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {jobs?.map((job) => (
          <FileItem key={job.uid} job={job} zone={plant?.zone ?? 'UTC'} onProblem={setFailed} />
        ))}
      </Box>
    </Box>
  );
}
