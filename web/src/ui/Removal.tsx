/** Removing something: what goes along is said, and it is asked for once more. */
import { Box, Button } from '@mui/material';
import { useState, type ReactElement, type ReactNode } from 'react';
import * as common from 'texts/common.json';
import { useRefusal } from './access';
import { Told } from './Panel';

interface RemovalProps {
  /** What is removed, as it stands on the button that does it. */
  what: string;
  /** What goes along, and what stays. */
  children: ReactNode;
  word?: string;
  busy?: boolean;
  problem?: string | null;
  onRemove: () => void;
}

export function Removal(props: RemovalProps): ReactElement | null {
  const { what, children, word = common.remove, busy = false, problem = null, onRemove } = props;
  // What was asked for is asked of this very object: the next one that is shown is not half removed already.
  const [asked, setAsked] = useState<string | null>(null);
  if (useRefusal() !== null) return null;
  if (asked !== what) {
    return (
      <Button size="small" color="error" onClick={() => setAsked(what)}>
        {word} …
      </Button>
    );
  }
  return (
    <Box sx={{ display: 'grid', gap: 1, flexBasis: '100%' }}>
      <Told kind="error">{children}</Told>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button
          size="small"
          color="error"
          variant="outlined"
          autoFocus
          disabled={busy}
          onClick={() => onRemove()}
        >
          {word} {what}
        </Button>
        <Button size="small" onClick={() => setAsked(null)}>
          {common.cancel}
        </Button>
      </Box>
      {problem !== null && <Told kind="error">{problem}</Told>}
    </Box>
  );
}
