/** Files that the worker makes: how far each is, and where it is fetched. */
import { Box, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as wording from 'texts/files.json';
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
        {wording.files}
      </Typography>
      <Typography variant="body2" sx={{ color: 'text.secondary' }}>
        {wording.requestAFileOnATrend}
      </Typography>
      {problem !== null && <Told kind="error">{errorText(problem)}</Told>}
      {jobs?.length === 0 && (
        <Typography variant="body2" sx={{ py: 2 }}>
          {wording.thereAreNoFiles}
        </Typography>
      )}
      <Box component="ul" aria-label={wording.files} sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {jobs?.map((job) => (
          <FileItem key={job.uid} job={job} zone={plant?.zone ?? 'UTC'} onProblem={setFailed} />
        ))}
      </Box>
    </Box>
  );
}
