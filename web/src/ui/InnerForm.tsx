/** A field with an action of its own inside a larger form: Enter does that one, and saves nothing else. */
import { Box } from '@mui/material';
import type { KeyboardEvent, ReactElement, ReactNode } from 'react';

interface InnerFormProps {
  onEnter?: () => void;
  /** Is told the element that holds it. */
  onPlaced?: (element: Element | null) => void;
  children: ReactNode;
}

export function InnerForm({ onEnter, onPlaced, children }: InnerFormProps): ReactElement {
  const enter = (event: KeyboardEvent): void => {
    if (event.key !== 'Enter' || event.defaultPrevented || !(event.target instanceof HTMLInputElement))
      return;
    event.preventDefault();
    onEnter?.();
  };
  return (
    <Box {...(onPlaced === undefined ? {} : { ref: onPlaced })} onKeyDown={enter}>
      {children}
    </Box>
  );
}
