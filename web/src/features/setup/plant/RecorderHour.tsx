/** How the recorder did over the last hour, minute by minute, as small curves. */
import { Box, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-plant.json';
import { fill } from '../../../domain/fill';
import { MINUTE } from '../../../domain/time';
import { trailPath } from '../../../domain/trailPath';
import { Told } from '../../../ui';
import { recorderHourQuery, type RecorderMinute } from '../../../entities/health';
import { errorText } from '../../../platform/errors';

interface Course {
  label: string;
  of: (minute: RecorderMinute) => number | null;
  /** What is told of all minutes that are known. */
  told: (values: readonly number[]) => string;
}

const range = (values: readonly number[], unit: string): string =>
  fill(common.lowToHigh, {
    low: `${Math.min(...values).toFixed(1)}${unit}`,
    high: `${Math.max(...values).toFixed(1)}${unit}`,
  });
const inAll = (values: readonly number[]): string =>
  fill(wording.countInTheHour, { count: values.reduce((sum, one) => sum + one, 0) });

const COURSES: readonly Course[] = [
  {
    label: common.samplesASecond,
    of: (minute) => minute.samples_per_second,
    told: (values) => range(values, ''),
  },
  {
    label: wording.commitsBehindTheClock,
    of: (minute) => (minute.behind_ms == null ? null : minute.behind_ms / 1000),
    told: (values) => range(values, ' s'),
  },
  { label: common.lateScans, of: (minute) => minute.late_scans, told: inAll },
  { label: wording.minutesWithGaps, of: ({ gaps }) => gaps, told: (values) => inMinutes(values) },
];

/** Gaps may last for many minutes: these are counted, not how often one was met. */
function inMinutes(values: readonly number[]): string {
  return fill(wording.countOf60, { count: values.filter((one) => one > 0).length });
}

export function RecorderHour(): ReactElement | null {
  const { data, error } = useQuery(recorderHourQuery);
  if (error !== null) return <Told kind="error">{errorText(error)}</Told>;
  if (data === undefined) return null;
  return (
    <Box
      component="section"
      aria-label={wording.theLastHour}
      sx={{ display: 'grid', gap: 2, gridTemplateColumns: 'repeat(auto-fill, minmax(220px, 1fr))' }}
    >
      {COURSES.map((course) => (
        <Curve key={course.label} course={course} minutes={data} />
      ))}
    </Box>
  );
}

const [WIDTH, HEIGHT] = [220, 36];

function Curve({ course, minutes }: { course: Course; minutes: readonly RecorderMinute[] }): ReactElement {
  const values = minutes.map(course.of);
  const known = values.filter((value) => value !== null);
  const t = minutes.map((minute) => Number(minute.start_us));
  const startUs = t[0] ?? 0;
  const endUs = (t.at(-1) ?? 0) + MINUTE;
  const told = known.length === 0 ? wording.noRecorderInThisHour : course.told(known);
  const path = trailPath(
    { t, v: values.map((value) => value ?? NaN) },
    { startUs, endUs, width: WIDTH, height: HEIGHT, least: 1, isStepped: true },
  );
  return (
    <Box component="figure" sx={{ m: 0 }}>
      <Typography component="figcaption" variant="caption" sx={{ color: 'text.secondary' }}>
        {course.label}
      </Typography>
      <Box
        component="svg"
        role="img"
        aria-label={fill(wording.labelOverTheLastHour, { label: course.label, told })}
        viewBox={`0 -2 ${WIDTH} ${HEIGHT + 4}`}
        preserveAspectRatio="none"
        sx={{ display: 'block', width: 1, height: HEIGHT + 4, borderBottom: 1, borderColor: 'divider' }}
      >
        <path
          d={path}
          fill="none"
          stroke="currentColor"
          strokeWidth={1.25}
          vectorEffect="non-scaling-stroke"
        />
      </Box>
      <Typography variant="caption">{told}</Typography>
    </Box>
  );
}
