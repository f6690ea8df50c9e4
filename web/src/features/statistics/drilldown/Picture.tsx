/** A drawing without words in it, stretched to its place; what it shows is said in its label. */
import { Box } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';

interface PictureProps {
  label: string;
  height: number;
  /** Width and height of what is drawn in; the place has its own. */
  box?: string;
  lined?: 'below' | 'left and below';
  children: ReactNode;
}

export function Picture({ label, height, box = '0 0 1 1', lined, children }: PictureProps): ReactElement {
  return (
    <Box
      component="svg"
      role="img"
      aria-label={label}
      viewBox={box}
      preserveAspectRatio="none"
      sx={{
        display: 'block',
        width: '100%',
        height,
        borderColor: 'divider',
        borderBottom: lined === undefined ? 0 : 1,
        borderLeft: lined === 'left and below' ? 1 : 0,
      }}
    >
      {children}
    </Box>
  );
}
