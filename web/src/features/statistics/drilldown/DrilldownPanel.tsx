/** A figure of all pieces, looked at more closely: over time, spread, parts, states. */
import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { lengthText } from '../../../domain/time';
import { Told } from '../../../ui';
import {
  PERS,
  picturesOf,
  type Drilldown,
  type DrilldownLook,
  type DrawnProps,
  type Per,
  type Picture,
} from './drilldown';
import { OverTime, Parts } from './DrilldownBars';
import { HeadChoice } from '../sheet/HeadChoice';
import { Spread } from './DrilldownSpread';
import { States } from './DrilldownStates';
import { type Kind } from '../sheet/lanes';
import { statLabel } from '../../../entities/stats/labels';
import { Scatter } from './Scatter';
import type { Norm } from '../sheet/state';
import { closerQuery } from '../../../entities/statistics';

interface DrilldownPanelProps {
  look: DrilldownLook;
  kind: Kind;
  norm: Norm;
  sorted: boolean;
  zone: string;
  onClose: () => void;
}

const PER_WORDS: Record<Per, string> = {
  auto: wording.inRoundStretches,
  hour: wording.byHours,
  shift: wording.byShifts,
  day: wording.byDays,
};
const PICTURE_WORDS: Record<Picture, string> = {
  'over time': wording.overTime,
  spread: wording.spread,
  scatter: wording.againstAnother,
  parts: wording.partsOfTheWhole,
  states: wording.states,
};

export function DrilldownPanel({
  look,
  kind,
  norm,
  sorted,
  zone,
  onClose,
}: DrilldownPanelProps): ReactElement {
  const [per, setPer] = useState<Per>('auto');
  const [wanted, setWanted] = useState<Picture>('over time');
  const tags = look.pieces.map((one) => one.tag);
  const { data, error } = useQuery(closerQuery(tags, look.stat, look.range, per, norm));
  const there = data === undefined ? [] : picturesOf(data);
  const picture = there.includes(wanted) ? wanted : there[0];
  return (
    <Box
      component="section"
      aria-label={wording.closerLook}
      sx={{ borderTop: 1, borderColor: 'divider', bgcolor: 'background.paper', px: 2, py: 1 }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', flexWrap: 'wrap', gap: 1 }}>
        <Typography component="h2" variant="h2" sx={{ mr: 'auto' }}>
          {look.member}, {statLabel(look.stat)}
          {data === undefined || picture !== 'over time'
            ? ''
            : ` ${fill(wording.ofEachStretch, { stretch: stretchText(data, per) })}`}
        </Typography>
        <Box role="group" aria-label={wording.picture}>
          {there.map((one) => (
            <Button
              key={one}
              size="small"
              aria-pressed={one === picture}
              onClick={() => setWanted(one)}
              sx={one === picture ? { fontWeight: 700, color: 'text.primary' } : {}}
            >
              {PICTURE_WORDS[one]}
            </Button>
          ))}
        </Box>
        {picture === 'over time' && (
          <HeadChoice
            label={wording.stretches}
            value={per}
            options={PERS}
            words={(one) => PER_WORDS[one]}
            onChange={setPer}
          />
        )}
        <Button size="small" onClick={onClose}>
          {common.close}
        </Button>
      </Box>
      {error !== null && <Told kind="error">{errorText(error)}</Told>}
      {data !== undefined && there.length === 0 && <Told>{wording.thisWindowHasNothingToDraw}</Told>}
      {data !== undefined && picture !== undefined && (
        <Box sx={{ maxHeight: 300, overflow: 'auto', mt: 0.5 }}>
          <Drawn found={data} look={look} kind={kind} picture={picture} sorted={sorted} zone={zone} />
        </Box>
      )}
    </Box>
  );
}

function stretchText(found: Drilldown, per: Per): string {
  const [first, second] = found.starts_us.map(Number);
  if (per !== 'auto' || first === undefined || second === undefined)
    return per === 'auto' ? wording.window : per;
  return lengthText(second - first);
}

function Drawn({ picture, ...props }: DrawnProps & { picture: Picture; kind: Kind }): ReactElement {
  switch (picture) {
    case 'over time':
      return <OverTime {...props} />;
    case 'spread':
      return <Spread {...props} />;
    case 'scatter':
      return <Scatter look={props.look} kind={props.kind} />;
    case 'parts':
      return <Parts {...props} />;
    case 'states':
      return <States {...props} />;
  }
}
