/** What fails to be drawn costs its own place, and says so there. */
import { Box, Button, Typography } from '@mui/material';
import { Component, type ErrorInfo, type ReactElement, type ReactNode } from 'react';
import * as wording from 'texts/ui.json';
import { fill } from '../domain/fill';

interface FailedProps {
  /** What cannot be shown, as it stands in a sentence. */
  what: string;
  error: unknown;
  onAgain: () => void;
}

/** What browsers say when a part of the program did not come from the server. */
const NOT_LOADED = /dynamically imported module|module script/i;

function reasonOf(error: unknown): string {
  if (error instanceof TypeError && NOT_LOADED.test(error.message)) return wording.thisPartOfTheProgramCould;
  return wording.thisIsAFaultOfThe;
}

/** Says that something cannot be shown, and why. */
export function Failed({ what, error, onAgain }: FailedProps): ReactElement {
  return (
    <Box role="alert" sx={{ p: 2, maxWidth: 560 }}>
      <Typography component="h2" variant="h2" sx={{ mb: 0.5 }}>
        {fill(wording.whatCannotBeShown, { what })}
      </Typography>
      <Typography variant="body2" sx={{ mb: 1 }}>
        {reasonOf(error)}
      </Typography>
      <Typography
        component="pre"
        variant="caption"
        sx={{ whiteSpace: 'pre-wrap', color: 'text.secondary', mb: 1 }}
      >
        {error instanceof Error ? `${error.name}: ${error.message}` : String(error)}
      </Typography>
      <Button size="small" variant="outlined" onClick={onAgain}>
        {wording.tryAgain}
      </Button>
    </Box>
  );
}

interface BoundaryProps {
  what: string;
  /** Where it stands: somewhere else it is tried anew. */
  at?: string;
  children: ReactNode;
}

/** Around a part of a page: the rest of the page stays when it fails. */
export class Boundary extends Component<BoundaryProps, { error: unknown }> {
  override state: { error: unknown } = { error: null };

  static getDerivedStateFromError(error: unknown): { error: unknown } {
    return { error };
  }

  override componentDidUpdate(before: BoundaryProps): void {
    if (before.at !== this.props.at && this.state.error !== null) this.setState({ error: null });
  }

  override componentDidCatch(error: unknown, info: ErrorInfo): void {
    // The console is where whoever looks after the program looks first.
    console.error(error, info.componentStack);
  }

  override render(): ReactNode {
    const { error } = this.state;
    if (error === null) return this.props.children;
    return <Failed what={this.props.what} error={error} onAgain={() => this.setState({ error: null })} />;
  }
}
