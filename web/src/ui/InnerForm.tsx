/** A field with an action of its own inside a larger form: Enter does that one, and saves nothing else. */
import { Box } from '@mui/material';
import type { KeyboardEvent, ReactElement, ReactNode } from 'react';

export function InnerForm({
  onEnter,
  children,
}: {
  onEnter?: () => void;
  children: ReactNode;
}): ReactElement {
  const enter = (event: KeyboardEvent): void => {
    if (event.key !== 'Enter' || event.defaultPrevented || !(event.target instanceof HTMLInputElement))
      return;
    event.preventDefault();
    onEnter?.();
  };
  return <Box onKeyDown={enter}>{children}</Box>;
}
