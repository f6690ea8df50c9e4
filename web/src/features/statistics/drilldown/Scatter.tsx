/** Two tags of each piece against each other, all on the same scales; later points are darker. */
import { Box, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as wording from 'texts/statistics.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { useThemeChoice } from '../../../ui/themeContext';
import { Told } from '../../../ui';
import { dotsOf, pairsOf, relationText, type DrilldownLook, type ScatterPair } from './drilldown';
import type { Kind } from '../sheet/lanes';
import { Picture } from './Picture';
import { HeadChoice } from '../sheet/HeadChoice';
import { scatterQuery, type Scatter as Found } from '../../../entities/statistics';

interface ScatterProps {
  look: DrilldownLook;
  kind: Kind;
}

const HEIGHT = 150;

export function Scatter({ look, kind }: ScatterProps): ReactElement {
  const others = kind.members.filter(
    (one) => one.name !== look.member && ['float', 'integer'].includes(one.value_type),
  );
  const [chosen, setChosen] = useState<string | null>(null);
  const other = others.find((one) => one.name === chosen) ?? others[0];
  const pairs = other === undefined ? [] : pairsOf(look, kind, other);
  const { data, error } = useQuery(scatterQuery(pairs, look.range));
  if (other === undefined) return <Told>{wording.thereIsNoOtherTagWith}</Told>;
  return (
    <>
      <Box sx={{ typography: 'body2', display: 'flex', alignItems: 'center', gap: 1, flexWrap: 'wrap' }}>
        {fill(wording.memberOnTheHorizontalAxisOn, { member: look.member })}
        <HeadChoice
          label={wording.tagOnTheVerticalAxis}
          value={other.name}
          options={others.map((one) => one.name)}
          words={(name) => name}
          onChange={setChosen}
        />
        <Typography component="span" variant="caption" sx={{ color: 'text.secondary' }}>
          {wording.paleStartOfTheWindowDark}
        </Typography>
      </Box>
      {error !== null && <Told kind="error">{errorText(error)}</Told>}
      {data !== undefined && (
        <Box
          component="ul"
          aria-label={wording.scatterByEquipment}
          sx={{
            listStyle: 'none',
            m: 0,
            p: 0,
            display: 'grid',
            columnGap: 2,
            rowGap: 1,
            gridTemplateColumns: 'repeat(auto-fill, minmax(240px, 1fr))',
          }}
        >
          {data.pairs.map((pair, i) => (
            <Piece key={pair.x} pair={pair} found={data} name={pairs[i]?.name ?? ''} />
          ))}
        </Box>
      )}
    </>
  );
}

function Piece({ pair, found, name }: { pair: ScatterPair; found: Found; name: string }): ReactElement {
  const { tokens } = useThemeChoice();
  const words = relationText(pair);
  return (
    <Box component="li">
      <Typography component="span" variant="subtitle2">
        {name}
      </Typography>{' '}
      <Typography component="span" variant="caption" sx={{ color: 'text.secondary' }}>
        {words}
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'auto minmax(0, 1fr)', columnGap: 0.75 }}>
        <Ends low={found.low_y} high={found.high_y} unit={found.unit_y} upwards />
        <Picture label={`${name}: ${words}`} height={HEIGHT} box="0 0 100 60" lined="left and below">
          {dotsOf(found, pair).map((dot) => (
            <line
              key={dot.key}
              x1={100 * dot.x}
              x2={100 * dot.x}
              y1={60 * (1 - dot.y)}
              y2={60 * (1 - dot.y)}
              stroke={tokens.ink}
              strokeOpacity={0.15 + 0.75 * dot.age}
              strokeWidth={4}
              strokeLinecap="round"
              vectorEffect="non-scaling-stroke"
            />
          ))}
        </Picture>
        <span />
        <Ends low={found.low_x} high={found.high_x} unit={found.unit_x} />
      </Box>
    </Box>
  );
}

interface EndsProps {
  low: number;
  high: number;
  unit: string;
  upwards?: boolean;
}

function Ends({ low, high, unit, upwards = false }: EndsProps): ReactElement {
  const [first, second] = [low, high].map((one) => `${one.toPrecision(3)} ${unit}`);
  return (
    <Box
      sx={{
        typography: 'caption',
        display: 'flex',
        justifyContent: 'space-between',
        color: 'text.secondary',
        flexDirection: upwards ? 'column-reverse' : 'row',
      }}
    >
      <span>{first}</span>
      <span>{second}</span>
    </Box>
  );
}
