/** One thing that was just done, at the lower edge of the page: it stays for a while, and as long as the pointer or the
 * focus is on it. */
import { Close } from '@mui/icons-material';
import { Button, IconButton, Snackbar, SnackbarContent } from '@mui/material';
import { useState, type ReactElement } from 'react';
import * as wording from 'texts/ui.json';
import { errorText } from '../platform/errors';
import { say, unsay, type Toast } from './toasts';

/** Long enough to read it, and to come to its button by keys (WCAG 2.2, 2.2.1). */
const STAYS_MS = { read: 8_000, undo: 20_000 } as const;
/** The time rail stays free. */
const ABOVE_RAIL_PX = 92;

export function ToastPanel({ toast }: { toast: Toast }): ReactElement {
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState('');
  const { text, undo } = toast;
  const close = (): void => unsay(toast);
  const take = async (back: () => Promise<string>): Promise<void> => {
    setBusy(true);
    try {
      say(await back());
    } catch (error) {
      setProblem(errorText(error));
      setBusy(false);
    }
  };
  return (
    <Snackbar
      open
      // What went wrong stays until it is read.
      autoHideDuration={problem !== '' || busy ? null : STAYS_MS[undo === null ? 'read' : 'undo']}
      onClose={(_, reason) => {
        if (reason !== 'clickaway') close();
      }}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
      sx={{ bottom: { xs: ABOVE_RAIL_PX, sm: ABOVE_RAIL_PX } }}
    >
      <SnackbarContent
        role={problem === '' ? 'status' : 'alert'}
        message={problem === '' ? text : problem}
        sx={{
          maxWidth: 480,
          bgcolor: 'background.paper',
          color: 'text.primary',
          border: 1,
          borderColor: 'text.secondary',
          boxShadow: 'none',
        }}
        action={
          <>
            {undo !== null && problem === '' && (
              <Button size="small" disabled={busy} onClick={() => void take(undo)}>
                {wording.undo}
              </Button>
            )}
            <IconButton size="small" color="inherit" aria-label={wording.closeWhatIsSaid} onClick={close}>
              <Close fontSize="small" />
            </IconButton>
          </>
        }
      />
    </Snackbar>
  );
}
