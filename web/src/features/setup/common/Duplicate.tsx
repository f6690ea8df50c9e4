/** Begins a new object with the settings of one that there is. */
import { Button } from '@mui/material';
import type { ReactElement } from 'react';
import { useNavigate } from 'react-router';
import * as wording from 'texts/setup.json';
import { fill } from '../../../domain/fill';
import { copyParams, Offered } from '../../../ui';

export function Duplicate({ uid }: { uid: string }): ReactElement {
  const navigate = useNavigate();
  return (
    <Offered>
      <Button
        size="small"
        onClick={() => void navigate({ search: `?${copyParams(window.location.search, uid).toString()}` })}
      >
        {wording.duplicate}
      </Button>
    </Offered>
  );
}

/** What a copy begins with: the same settings under a name of its own, until another one is given. */
export function copied<T extends { name: string }>(values: T, isCopy: boolean): T {
  return isCopy ? { ...values, name: fill(wording.nameCopy, { name: values.name }) } : values;
}
