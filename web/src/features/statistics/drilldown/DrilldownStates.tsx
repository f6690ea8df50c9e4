/** What contacts were in, and when; with a table of how long and how often. */
import { Box } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import { fill } from '../../../domain/fill';
import { useThemeChoice } from '../../../ui/themeContext';
import { clockText, MINUTE } from '../../../domain/time';
import type { Drilldown, DrawnProps } from './drilldown';

type Timeline = Drilldown['timelines'][number];
type State = Timeline['states'][number]['state'];

export function States({ found, look, zone }: DrawnProps): ReactElement {
  const [start, end] = [Number(found.window.start_us), Number(found.window.end_us)];
  return (
    <Box
      component="table"
      aria-label={wording.statesByEquipment}
      sx={{
        typography: 'body2',
        width: '100%',
        borderCollapse: 'collapse',
        '& td, & th': { px: 1, verticalAlign: 'top' },
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
          <Box component="th" sx={{ width: '55%' }}>
            <Box sx={{ display: 'flex', justifyContent: 'space-between' }}>
              <span>{clockText(start, zone, MINUTE)}</span>
              <span>{wording.blockOnHatchedNoValue}</span>
              <span>{clockText(end, zone, MINUTE)}</span>
            </Box>
          </Box>
          <Box component="th" sx={{ textAlign: 'right' }}>
            {wording.stateTimeTimesEnteredLongest}
          </Box>
        </Box>
      </thead>
      <tbody>
        {look.pieces.map(({ name, tag }) => {
          const line = found.timelines.find((one) => one.tag === tag);
          return line === undefined ? null : (
            <Box component="tr" key={tag} sx={{ borderTop: 1, borderColor: 'divider' }}>
              <td>
                {name}
                {line.whole ? '' : ` ${wording.theNewestPart}`}
              </td>
              <td>
                <Line
                  line={line}
                  start={start}
                  end={end}
                  label={fill(wording.statesOfNameOverTime, { name })}
                />
              </td>
              <Box component="td" sx={{ textAlign: 'right' }}>
                {line.states.map((one) => (
                  <div key={String(one.state)}>
                    {stateText(one.state, look.contact)}: {secondsText(one.seconds)}, {one.entries}×,{' '}
                    {secondsText(one.longest)}
                  </div>
                ))}
              </Box>
            </Box>
          );
        })}
      </tbody>
    </Box>
  );
}

interface LineProps {
  line: Timeline;
  start: number;
  end: number;
  label: string;
}

function Line({ line, start, end, label }: LineProps): ReactElement {
  const { tokens } = useThemeChoice();
  const at = (us: string): number => (100 * (Number(us) - start)) / (end - start);
  return (
    <Box role="img" aria-label={label} sx={{ position: 'relative', height: 22, bgcolor: 'transparent' }}>
      {line.stretches.map((one) => (
        <Box
          key={one.start_us}
          sx={{
            position: 'absolute',
            left: `${at(one.start_us)}%`,
            width: `${at(one.end_us) - at(one.start_us)}%`,
            // What is short is seen still.
            minWidth: one.state === 0 ? 0 : '2px',
            ...drawn(one.state, tokens),
          }}
        />
      ))}
    </Box>
  );
}

function drawn(state: number | null, tokens: { ink: string; rule: string }): Record<string, string | number> {
  if (state === null) {
    const hatch = `repeating-linear-gradient(45deg, ${tokens.rule} 0 2px, transparent 2px 5px)`;
    return { top: 4, height: 14, backgroundImage: hatch };
  }
  if (state === 0) return { top: 10, height: 2, backgroundColor: tokens.rule };
  return { top: 2, height: 18, backgroundColor: tokens.ink };
}

function stateText(state: State, contact: boolean): string {
  if (!contact) return String(state);
  return Number(state) === 0 ? common.off : common.on;
}

function secondsText(seconds: number): string {
  if (seconds < 120) return `${seconds.toFixed(1)} s`;
  return seconds < 7_200
    ? fill(wording.secondsMin, { seconds: (seconds / 60).toFixed(1) })
    : `${(seconds / 3_600).toFixed(1)} h`;
}
