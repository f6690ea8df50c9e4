/** What somebody else has saved while a form was open, beside what was typed in it. */
import { Box, Button, Table, TableBody, TableCell, TableHead, TableRow } from '@mui/material';
import type { ReactElement } from 'react';
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
    return refused ? (
      <Told>The other version is in the form now, with what you typed kept. Save again to write both.</Told>
    ) : null;
  }
  return (
    <Box role="group" aria-label="Changed by someone else">
      <Told kind={refused ? 'plain' : 'error'}>
        Someone else has saved other values for what you changed. Save writes what the form shows.
      </Told>
      <Table
        size="small"
        aria-label="Both versions"
        sx={{ '& td, & th': { typography: 'caption', px: 0.5 } }}
      >
        <TableHead>
          <TableRow>
            <TableCell>Field</TableCell>
            <TableCell>Yours</TableCell>
            <TableCell>Theirs</TableCell>
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
                  aria-label={`Take their ${one.field.replaceAll('_', ' ')}`}
                  onClick={() => onTake([one])}
                >
                  Take
                </Button>
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
      <Button size="small" onClick={() => onTake(clashes)}>
        Take their version
      </Button>
    </Box>
  );
}
