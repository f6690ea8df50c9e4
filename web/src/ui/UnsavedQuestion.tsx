/** Asks whoever leaves a form whether what was typed there may be lost. */
import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import type { ReactElement } from 'react';

interface UnsavedQuestionProps {
  onStay: () => void;
  onDiscard: () => void;
}

export function UnsavedQuestion({ onStay, onDiscard }: UnsavedQuestionProps): ReactElement {
  return (
    <Dialog open onClose={onStay} aria-labelledby="unsaved">
      <DialogTitle id="unsaved">Discard what is not saved?</DialogTitle>
      <DialogContent>What was changed in the form is not saved yet.</DialogContent>
      <DialogActions>
        <Button autoFocus onClick={onStay}>
          Stay
        </Button>
        <Button color="error" onClick={onDiscard}>
          Discard
        </Button>
      </DialogActions>
    </Dialog>
  );
}
