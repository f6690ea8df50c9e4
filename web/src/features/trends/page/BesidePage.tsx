/** Two saved sheets side by side, over one window. What is changed in one of them stays there until it is saved. */
import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useCallback, useMemo, useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { HOUR } from '../../../domain/time';
import { lastOf, sameWindow, type WindowChoice } from '../../../domain/windows';
import { sheetsQuery, type Sheet } from '../../../entities/sheets';
import { useWindowInAddress } from '../../../entities/useWindowInAddress';
import { errorText } from '../../../platform/errors';
import { useAddress } from '../../../platform/useAddress';
import { Told } from '../../../ui';
import { readDocument } from '../model/document';
import type { TrendState } from '../model/state';
import { Trend } from './Trend';

const SIDES = ['left', 'right'] as const;
const USUAL = lastOf(8 * HOUR);
const NO_REQUEST = { tag: null };

export function BesidePage(): ReactElement {
  const address = useAddress();
  const { window, setWindow } = useWindowInAddress(address, USUAL);
  const { data: sheets, error } = useQuery(sheetsQuery);
  if (error !== null) return <Told kind="error">{errorText(error)}</Told>;
  if (sheets === undefined || window === null) return <Told>{common.reading}</Told>;
  return (
    <Box
      sx={{
        display: 'grid',
        height: { md: '100%' },
        gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) minmax(0, 1fr)' },
        '& > :last-child': { borderLeft: { md: 1 }, borderColor: { md: 'divider' } },
      }}
    >
      {SIDES.map((side) => {
        const uid = address[0].get(side);
        const sheet = sheets.find((one) => one.uid === uid);
        return sheet === undefined ? (
          <Told key={side}>{fill(wording.theSheetOnTheSideIs, { side })}</Told>
        ) : (
          <Side key={`${side} ${sheet.uid}`} sheet={sheet} window={window} setWindow={setWindow} />
        );
      })}
    </Box>
  );
}

interface SideProps {
  sheet: Sheet;
  window: WindowChoice;
  setWindow: (window: WindowChoice) => void;
}

function Side({ sheet, window, setWindow }: SideProps): ReactElement {
  const [kept, setKept] = useState(() => ({ ...readDocument(sheet.view), sheet: sheet.uid }));
  const state = useMemo(() => ({ ...kept, window }), [kept, window]);
  const onChange = useCallback(
    (next: TrendState) => {
      setKept({ ...next, sheet: next.sheet ?? sheet.uid });
      if (!sameWindow(next.window, window)) setWindow(next.window);
    },
    [sheet.uid, window, setWindow],
  );
  return (
    <Box component="section" aria-label={sheet.name} sx={{ minWidth: 0, minHeight: { xs: 480, md: 0 } }}>
      <Trend
        state={state}
        onChange={onChange}
        permissions={null}
        hasRail={false}
        name={sheet.name}
        request={NO_REQUEST}
      />
    </Box>
  );
}
