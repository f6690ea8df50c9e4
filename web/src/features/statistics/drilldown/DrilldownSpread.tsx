/** How values were spread by time: a box and a histogram a piece, each kind on one scale. */
import { Box, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import { fill } from '../../../domain/fill';
import { useThemeChoice } from '../../../ui/themeContext';
import { boxPlaces, type Drilldown, type DrawnProps } from './drilldown';
import { Picture } from './Picture';

const HEIGHT = 34;

export function Spread({ found, look }: DrawnProps): ReactElement {
  const text = (value: number): string => value.toFixed(look.decimals);
  const lows = found.boxes.map((one) => one.low);
  const highs = found.boxes.map((one) => one.high);
  const ends = [Math.min(...lows), Math.max(...highs)].map((one) => `${text(one)} ${found.unit}`);
  return (
    <Box
      component="table"
      aria-label={wording.spreadByEquipment}
      sx={{ typography: 'body2', width: '100%', borderCollapse: 'collapse', '& td, & th': { px: 1 } }}
    >
      <thead>
        <Box
          component="tr"
          sx={{ '& th': { typography: 'caption', fontWeight: 400, color: 'text.secondary' } }}
        >
          <Box component="th" sx={{ textAlign: 'left' }}>
            {common.equipment}
          </Box>
          <Box component="th" sx={{ textAlign: 'right' }}>
            {wording.leastQuartilesGreatest}
          </Box>
          <Box component="th" sx={{ width: '32%' }}>
            <Ends ends={ends} middle={wording.box} />
          </Box>
          <Box component="th" sx={{ width: '32%' }}>
            <Ends ends={ends} middle={wording.shareOfTheTime} />
          </Box>
        </Box>
      </thead>
      <tbody>
        {look.pieces.map(({ name, tag }) => {
          const box = found.boxes.find((one) => one.tag === tag);
          return (
            <Box component="tr" key={tag} sx={{ borderTop: 1, borderColor: 'divider' }}>
              <td>{name}</td>
              <Box component="td" sx={{ textAlign: 'right', whiteSpace: 'nowrap' }}>
                {box === undefined
                  ? '–'
                  : [box.low, box.lower_quartile, box.median, box.upper_quartile, box.high]
                      .map(text)
                      .join(' · ')}
              </Box>
              <td>
                <BoxPlot found={found} tag={tag} label={fill(wording.boxOfName, { name })} />
              </td>
              <td>
                <Bins found={found} tag={tag} label={fill(wording.histogramOfName, { name })} />
              </td>
            </Box>
          );
        })}
      </tbody>
    </Box>
  );
}

function Ends({ ends, middle }: { ends: readonly string[]; middle: string }): ReactElement {
  return (
    <Box sx={{ display: 'flex', justifyContent: 'space-between' }}>
      <span>{ends[0]}</span>
      <Typography component="span" variant="caption">
        {middle}
      </Typography>
      <span>{ends[1]}</span>
    </Box>
  );
}

interface GlyphProps {
  found: Drilldown;
  tag: string;
  label: string;
}

function BoxPlot({ found, tag, label }: GlyphProps): ReactElement | null {
  const { tokens } = useThemeChoice();
  const at = boxPlaces(found, tag);
  if (at === null) return null;
  const line = { stroke: tokens.ink, vectorEffect: 'non-scaling-stroke' } as const;
  return (
    <Picture label={label} height={HEIGHT}>
      <line x1={at.low} x2={at.high} y1={0.5} y2={0.5} {...line} />
      <line x1={at.low} x2={at.low} y1={0.35} y2={0.65} {...line} />
      <line x1={at.high} x2={at.high} y1={0.35} y2={0.65} {...line} />
      <rect
        x={at.lower}
        width={Math.max(at.upper - at.lower, 0.002)}
        y={0.2}
        height={0.6}
        fill={tokens.select}
        {...line}
      />
      <line x1={at.median} x2={at.median} y1={0.2} y2={0.8} strokeWidth={2.5} {...line} />
    </Picture>
  );
}

function Bins({ found, tag, label }: GlyphProps): ReactElement | null {
  const { tokens } = useThemeChoice();
  const shares = found.shares.find((one) => one.tag === tag);
  if (shares === undefined) return null;
  const most = Math.max(...found.shares.flatMap((one) => one.percent));
  const width = 1 / shares.percent.length;
  return (
    <Picture label={label} height={HEIGHT}>
      {shares.percent.map((percent, i) => (
        <rect
          key={found.edges[i]}
          x={i * width}
          width={width * 0.9}
          y={1 - percent / most}
          height={percent / most}
          fill={tokens.quiet}
        />
      ))}
    </Picture>
  );
}
