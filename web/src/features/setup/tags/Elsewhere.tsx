/** What somebody else has saved while a form was open, beside what was typed in it. */
import { Box, Button, Table, TableBody, TableCell, TableHead, TableRow } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { fill } from '../../../domain/fill';
import type { Clash } from '../../../domain/merge';
import { Told } from '../../../ui';
import { shownValue } from '../equipment/equipment';

interface ElsewhereProps {
  clashes: readonly Clash[];
  /** The server has refused to save, because another version was saved meanwhile. */
  refused: boolean;
  onTake: (clashes: readonly Clash[]) => void;
}

export function Elsewhere({ clashes, refused, onTake }: ElsewhereProps): ReactElement | null {
  if (clashes.length === 0) {
    return refused ? <Told>{wording.theOtherVersionIsInThe}</Told> : null;
  }
  return (
    <Box role="group" aria-label={wording.changedBySomeoneElse}>
      <Told kind={refused ? 'plain' : 'error'}>{wording.someoneElseHasSavedOtherValues}</Told>
      <Table
        size="small"
        aria-label={wording.bothVersions}
        sx={{ '& td, & th': { typography: 'caption', px: 0.5 } }}
      >
        <TableHead>
          <TableRow>
            <TableCell>{wording.field}</TableCell>
            <TableCell>{wording.yours}</TableCell>
            <TableCell>{wording.theirs}</TableCell>
            <TableCell />
          </TableRow>
        </TableHead>
        <TableBody>
          {clashes.map((one) => (
            <TableRow key={one.field}>
              <TableCell>{one.field.replaceAll('_', ' ')}</TableCell>
              <TableCell sx={{ wordBreak: 'break-word' }}>{shownValue(one.mine)}</TableCell>
              <TableCell sx={{ wordBreak: 'break-word' }}>{shownValue(one.theirs)}</TableCell>
              <TableCell>
                <Button
                  size="small"
                  aria-label={fill(wording.takeTheirField, { field: one.field.replaceAll('_', ' ') })}
                  onClick={() => onTake([one])}
                >
                  {common.take}
                </Button>
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
      <Button size="small" onClick={() => onTake(clashes)}>
        {wording.takeTheirVersion}
      </Button>
    </Box>
  );
}
