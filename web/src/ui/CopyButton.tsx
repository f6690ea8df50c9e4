/** Copies a text and says whether it did. */
import { Button, type ButtonProps } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import * as wording from 'texts/ui.json';
import { copyText } from '../platform/clipboard';

interface CopyButtonProps extends Pick<ButtonProps, 'variant'> {
  word: string;
  text: () => string;
}

const SAID_MS = 2_500;

export function CopyButton({ word, text, variant = 'text' }: CopyButtonProps): ReactElement {
  const [said, setSaid] = useState('');
  useEffect(() => {
    if (said === '') return undefined;
    const timer = window.setTimeout(() => setSaid(''), SAID_MS);
    return () => window.clearTimeout(timer);
  }, [said]);
  const copy = async (): Promise<void> => {
    setSaid((await copyText(text())) ? wording.copied : wording.theBrowserDoesNotCopy);
  };
  return (
    <Button size="small" variant={variant} onClick={() => void copy()}>
      <span aria-live="polite">{said === '' ? word : said}</span>
    </Button>
  );
}
