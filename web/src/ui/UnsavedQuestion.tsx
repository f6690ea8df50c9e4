/** Asks whoever leaves a form whether what was typed there may be lost. */
import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/ui.json';

interface UnsavedQuestionProps {
  onStay: () => void;
  onDiscard: () => void;
}

export function UnsavedQuestion({ onStay, onDiscard }: UnsavedQuestionProps): ReactElement {
  return (
    <Dialog open onClose={onStay} aria-labelledby="unsaved">
      <DialogTitle id="unsaved">{wording.discardWhatIsNotSaved}</DialogTitle>
      <DialogContent>{wording.whatWasChangedInTheForm}</DialogContent>
      <DialogActions>
        <Button autoFocus onClick={onStay}>
          {wording.stay}
        </Button>
        <Button color="error" onClick={onDiscard}>
          {common.discard}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
