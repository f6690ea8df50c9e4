/** How the whole sheet is shown. */
import { Box } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { Choice, Switched } from '../../../ui';
import { Ordered } from '../../../ui/fields/Ordered';
import type { Display } from '../model/display';

interface DisplayFieldsProps {
  display: Display;
  onDisplay: (change: Partial<Display>) => void;
  large: boolean;
  onLarge: (large: boolean) => void;
}

const TIMES = [
  { value: 'clock', label: wording.theClock },
  { value: 'day', label: wording.dayAndClock },
  { value: 'elapsed', label: wording.timeSinceTheStart },
] as const;
const TICKS = [
  { value: 'few', label: wording.few },
  { value: 'usual', label: wording.normal },
  { value: 'many', label: wording.many },
] as const;
const GROUNDS = [
  { value: 'page', label: wording.asThePage },
  { value: 'plain', label: wording.whiteByNightBlack },
  { value: 'grey', label: wording.grey },
  { value: 'cool', label: wording.bluish },
] as const;
const AXIS_COLOURS = [
  { value: 'pen', label: wording.thatOfThePen },
  { value: 'quiet', label: wording.grey },
  { value: 'ink', label: wording.black },
  { value: 'accent', label: wording.theAccent },
] as const;
const NAMES = [
  { value: 'short', label: wording.nameWithoutItsEquipment },
  { value: 'name', label: wording.wholeName },
  { value: 'description', label: common.description },
  { value: 'equipment', label: common.equipment },
] as const;
const CARD = [
  { value: 'scale', label: common.scale },
  { value: 'recording', label: wording.howItIsRecorded },
  { value: 'description', label: common.description },
  { value: 'equipment', label: common.equipment },
  { value: 'archive', label: common.archive },
] as const;

export function DisplayFields({ display, onDisplay, large, onLarge }: DisplayFieldsProps): ReactElement {
  return (
    <Box sx={{ display: 'grid', gap: 1 }}>
      <Switched label={wording.largeTextsForReadingAtA} value={large} onChange={onLarge} />
      <Switched
        label={wording.pensBesideThePlot}
        value={display.drawer}
        onChange={(drawer) => onDisplay({ drawer })}
      />
      <Switched label={wording.grid} value={display.grid} onChange={(grid) => onDisplay({ grid })} />
      <Switched
        label={wording.textsOfTheAxes}
        value={display.axes}
        onChange={(axes) => onDisplay({ axes })}
      />
      <Switched
        label={wording.draggingZoomsTheScalesToo}
        value={display.area}
        onChange={(area) => onDisplay({ area })}
      />
      <Choice
        label={wording.timeAxisShows}
        value={display.times}
        options={TIMES}
        onChange={(times) => onDisplay({ times })}
      />
      <Choice
        label={wording.ticksOfTheTimeAxis}
        value={display.ticks}
        options={TICKS}
        onChange={(ticks) => onDisplay({ ticks })}
      />
      <Choice
        label={wording.groundOfThePlot}
        value={display.ground}
        options={GROUNDS}
        onChange={(ground) => onDisplay({ ground })}
      />
      <Choice
        label={wording.colourOfTheAxes}
        value={display.axisColour}
        options={AXIS_COLOURS}
        onChange={(axisColour) => onDisplay({ axisColour })}
      />
      <Choice
        label={wording.pensAreCalled}
        value={display.names}
        options={NAMES}
        onChange={(names) => onDisplay({ names })}
      />
      <Ordered
        label={wording.belowTheNameOnACard}
        options={CARD}
        value={display.card}
        onChange={(card) => onDisplay({ card })}
      />
    </Box>
  );
}
