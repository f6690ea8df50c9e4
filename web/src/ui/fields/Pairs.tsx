/** Fields of a form beside each other. */
import { Box } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';

/** Two fields beside each other. */
export function Pairs({ children, wide = false }: { children: ReactNode; wide?: boolean }): ReactElement {
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: wide ? 'repeat(6, 1fr)' : '1fr 1fr',
        columnGap: 2,
        rowGap: 1.5,
      }}
    >
      {children}
    </Box>
  );
}
