/** Bars: of each stretch beside what is normal, a picture a piece; and parts of the whole. */
import { Box, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import { useThemeChoice } from '../../../ui/themeContext';
import { clockText, dayText, DAY, MINUTE } from '../../../domain/time';
import { bandsOf, barsOf, inOrder, offWords, type Drilldown, type DrawnProps } from './drilldown';
import { numberText } from '../../../entities/stats/labels';
import { Picture } from './Picture';

const HEIGHT = 84;

export function OverTime({ found, look, sorted, zone }: DrawnProps): ReactElement {
  const text = (value: number): string => numberText(value, look.stat, look.decimals);
  return (
    <Box
      component="ul"
      aria-label={wording.overTimeByEquipment}
      sx={{
        listStyle: 'none',
        m: 0,
        p: 0,
        display: 'grid',
        columnGap: 2,
        rowGap: 1,
        gridTemplateColumns: 'repeat(auto-fill, minmax(260px, 1fr))',
      }}
    >
      {inOrder(found, sorted).map((place) => (
        <Box component="li" key={look.pieces[place]?.name ?? place}>
          <Box sx={{ display: 'flex', gap: 1, alignItems: 'baseline' }}>
            <Typography variant="subtitle2">{look.pieces[place]?.name}</Typography>
            <Typography variant="caption" sx={{ color: 'text.secondary' }}>
              {offWords(found, place)}
            </Typography>
          </Box>
          <Box sx={{ display: 'grid', gridTemplateColumns: 'auto minmax(0, 1fr)', columnGap: 0.75 }}>
            <Box
              sx={{
                typography: 'caption',
                display: 'flex',
                flexDirection: 'column',
                justifyContent: 'space-between',
                color: 'text.secondary',
                textAlign: 'right',
                height: HEIGHT,
              }}
            >
              <span>{text(found.high)}</span>
              <span>{text(found.low)}</span>
            </Box>
            <Bars
              found={found}
              place={place}
              label={`${look.pieces[place]?.name ?? ''}, ${offWords(found, place)}`}
            />
            <span />
            <Box
              sx={{
                typography: 'caption',
                display: 'flex',
                justifyContent: 'space-between',
                color: 'text.secondary',
              }}
            >
              <span>{endText(found, 'start_us', zone)}</span>
              <span>{endText(found, 'end_us', zone)}</span>
            </Box>
          </Box>
        </Box>
      ))}
    </Box>
  );
}

function endText({ window }: Drilldown, end: 'start_us' | 'end_us', zone: string): string {
  const long = Number(window.end_us) - Number(window.start_us) > DAY;
  const us = Number(window[end]);
  return long ? dayText(us, zone) : clockText(us, zone, MINUTE);
}

function Bars({ found, place, label }: { found: Drilldown; place: number; label: string }): ReactElement {
  const { tokens } = useThemeChoice();
  return (
    <Picture label={label} height={HEIGHT} lined="below">
      {bandsOf(found).map((one) => (
        <rect
          key={one.x}
          x={one.x}
          width={one.width}
          y={1 - one.y - one.height}
          height={one.height}
          fill={tokens.select}
        />
      ))}
      {barsOf(found, place).map((one) => (
        <rect
          key={one.x}
          x={one.x}
          width={one.width}
          y={1 - one.y - one.height}
          height={one.height}
          fill={one.off ? tokens.alert : tokens.quiet}
        />
      ))}
    </Picture>
  );
}

/** The largest part first, with what it and those before it make of the whole. */
export function Parts({ found, look }: DrawnProps): ReactElement {
  const { tokens } = useThemeChoice();
  const nameOf = (tag: string): string => look.pieces.find((one) => one.tag === tag)?.name ?? tag;
  return (
    <Box
      component="table"
      aria-label={wording.partsOfTheWhole}
      sx={{
        typography: 'body2',
        width: '100%',
        maxWidth: 760,
        borderCollapse: 'collapse',
        '& td, & th': { px: 1 },
      }}
    >
      <thead>
        <Box
          component="tr"
          sx={{ '& th': { typography: 'caption', fontWeight: 400, color: 'text.secondary' } }}
        >
          <Box component="th" sx={{ textAlign: 'left' }}>
            {common.equipment}
          </Box>
          <Box component="th" sx={{ width: '45%' }} />
          <Box component="th" sx={{ textAlign: 'right' }}>
            {statUnit(found)}
          </Box>
          <Box component="th" sx={{ textAlign: 'right' }}>
            {wording.ofAll}
          </Box>
          <Box component="th" sx={{ textAlign: 'right' }}>
            {wording.withThoseAbove}
          </Box>
        </Box>
      </thead>
      <tbody>
        {found.parts.map((one) => (
          <tr key={one.tag}>
            <td>{nameOf(one.tag)}</td>
            <td>
              <Box sx={{ height: 12, width: `${one.percent}%`, minWidth: '1px', bgcolor: tokens.quiet }} />
            </td>
            <Box component="td" sx={{ textAlign: 'right' }}>
              {numberText(one.value, look.stat, look.decimals)}
            </Box>
            <Box component="td" sx={{ textAlign: 'right' }}>
              {one.percent.toFixed(1)} %
            </Box>
            <Box component="td" sx={{ textAlign: 'right' }}>
              {one.cumulative.toFixed(1)} %
            </Box>
          </tr>
        ))}
      </tbody>
    </Box>
  );
}

function statUnit({ unit }: Drilldown): string {
  return unit === 'ms' ? 's' : unit;
}
