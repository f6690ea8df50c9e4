/** One pen: how it looks, its scale, its guide lines, the tag it shows. */
import { Box, Button } from '@mui/material';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import type { Tag } from '../../../platform/client';
import { parseNumber } from '../../../domain/numbers';
import { ColourField } from '../../../ui/fields/ColourField';
import { Choice, NumberLine, Pairs, Panel, Switched, TextLine, Told } from '../../../ui';
import type { PenLook } from '../model/looks';
import type { PenCard } from './PenCards';
import { TagChoice } from '../../../entities/TagChoice';

interface PenPanelProps {
  card: PenCard;
  look: PenLook;
  /** The other pens with a scale. */
  others: readonly { uid: string; name: string }[];
  onLook: (change: Partial<Record<keyof PenLook, unknown>>) => void;
  /** Shows another tag in its place, in the colour it has or in its own; asks for it in the list of tags. */
  onPoint: (keepColour: boolean) => void;
  onMove: (by: number) => void;
  /** Changes what it is made from, where it is no tag. */
  onMake: (() => void) | null;
  /** Draws a running mean beside it. */
  onSmooth: (() => void) | null;
  onClose: () => void;
}

const BETWEEN = [
  { value: 'tag', label: wording.asItsTagSays },
  { value: 'steps', label: wording.steps },
  { value: 'slopes', label: wording.slopes },
];
const AXES = [
  { value: 'left', label: wording.left },
  { value: 'right', label: wording.right },
  { value: 'none', label: wording.hidden },
];

const DRAWN = [
  { value: 'line', label: wording.aLine },
  { value: 'area', label: wording.aLineFilledBelow },
  { value: 'points', label: wording.points },
];

export function PenPanel(props: PenPanelProps): ReactElement {
  const { card, look, others, onLook, onPoint, onMove, onMake, onSmooth, onClose } = props;
  const { tag, name } = card.trace;
  const [keeps, setKeeps] = useState(true);
  return (
    <Panel title={name} onClose={onClose} width={300}>
      {card.trace.contact ? (
        <>
          <Told>{wording.aContactHasARowOf}</Told>
          <Switched
            label={wording.overTheCurves}
            value={look.over ?? false}
            onChange={(over) => onLook({ over: over ? true : undefined })}
          />
        </>
      ) : (
        <>
          <ColourField
            label={wording.colour}
            value={look.colour ?? ''}
            shown={card.colour}
            none={wording.itsOwn}
            onChange={(colour) => onLook({ colour: colour === '' ? undefined : colour })}
          />
          <Pairs>
            <Choice
              label={wording.drawnAs}
              value={look.draw ?? 'line'}
              options={DRAWN}
              onChange={(draw) => onLook({ draw })}
            />
            <NumberLine
              label={wording.widthPx}
              value={look.width ?? 1.6}
              onChange={(width) => onLook({ width: width === 1.6 ? undefined : width })}
            />
          </Pairs>
          <Pairs>
            <NumberLine
              label={wording.opacityPercent}
              value={Math.round((look.alpha ?? 1) * 100)}
              onChange={(percent) => onLook({ alpha: percent >= 100 ? undefined : percent / 100 })}
            />
            <Choice
              label={wording.betweenSamples}
              value={look.stepped === undefined ? 'tag' : look.stepped ? 'steps' : 'slopes'}
              options={BETWEEN}
              onChange={(next) => onLook({ stepped: next === 'tag' ? undefined : next === 'steps' })}
            />
          </Pairs>
          <Switched
            label={wording.dashed}
            value={look.dash ?? false}
            onChange={(dash) => onLook({ dash: dash ? true : undefined })}
          />
          <Switched
            label={wording.aLimitOrSetPointDashed}
            value={look.guide ?? false}
            onChange={(guide) => onLook({ guide })}
          />
          <ScaleChoice card={card} look={look} others={others} onLook={onLook} />
          <Choice
            label={wording.axis}
            value={look.axis ?? 'left'}
            options={AXES}
            onChange={(axis) => onLook({ axis: axis === 'left' ? undefined : axis })}
          />
          <Switched
            label={wording.logarithmic}
            value={look.log ?? false}
            onChange={(log) => onLook({ log: log ? true : undefined })}
          />
          <GuideLines key={`${tag.uid} lines`} look={look} tag={tag} onLook={onLook} />
          <GuideTags guides={look.guides ?? []} onChange={(guides) => onLook({ guides })} />
        </>
      )}
      <Pairs>
        <TextLine
          label={wording.nameInTheList}
          value={look.legend ?? ''}
          placeholder={name}
          onChange={(legend) => onLook({ legend: legend === '' ? undefined : legend })}
        />
        <NumberLine
          label={common.decimals}
          value={tag.decimals}
          onChange={(decimals) => onLook({ decimals: Math.round(decimals) })}
        />
      </Pairs>
      <ArchiveChoice tag={tag} look={look} onLook={onLook} />
      {onMake === null && !card.trace.contact && (
        <Switched label={wording.keepTheColourForTheNext} value={keeps} onChange={setKeeps} />
      )}
      <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
        {onMake === null ? (
          <Button size="small" variant="outlined" onClick={() => onPoint(keeps)}>
            {wording.showAnotherTag}
          </Button>
        ) : (
          <Button size="small" variant="outlined" onClick={onMake}>
            {wording.whatItIsMadeFrom}
          </Button>
        )}
        {onSmooth !== null && !card.trace.contact && (
          <Button size="small" onClick={onSmooth}>
            {wording.runningMeanBesideIt}
          </Button>
        )}
        <Button size="small" sx={{ minWidth: 0 }} onClick={() => onMove(-1)}>
          {common.up}
        </Button>
        <Button size="small" sx={{ minWidth: 0 }} onClick={() => onMove(1)}>
          {common.down}
        </Button>
      </Box>
    </Panel>
  );
}

/** Where the tag is kept in more than one archive: which one is read. */
function ArchiveChoice({ tag, look, onLook }: LookProps & { tag: Tag }): ReactElement | null {
  const archives = [...new Set(tag.recorded.map((one) => one.archive))];
  if (archives.length < 2) return null;
  return (
    <Choice
      label={wording.readFromTheArchive}
      value={look.archive ?? ''}
      options={[
        { value: '', label: wording.theOneThatFitsTheWindow },
        ...archives.map((name) => ({ value: name, label: name })),
      ]}
      onChange={(archive) => onLook({ archive: archive === '' ? undefined : archive })}
    />
  );
}

interface LookProps {
  look: PenLook;
  onLook: PenPanelProps['onLook'];
}

const SCALES = [
  { value: 'sheet', label: wording.asTheSheetSays },
  { value: 'fixed', label: wording.fixed },
  { value: 'tags', label: wording.withLimitsFromTags },
];
const NO_ENDS = {
  ...{ low: undefined, high: undefined },
  ...{ lowTag: undefined, highTag: undefined, scaleOf: undefined },
};

interface ScaleChoiceProps extends LookProps {
  card: PenCard;
  others: PenPanelProps['others'];
}

/** Where the ends of the scale come from. */
function ScaleChoice({ card, look, others, onLook }: ScaleChoiceProps): ReactElement {
  const { tag } = card.trace;
  const set = look.lowTag !== undefined || look.highTag !== undefined ? 'tags' : 'fixed';
  const [kind, setKind] = useState(look.low === undefined && set === 'fixed' ? 'sheet' : set);
  const shares = others.some(({ uid }) => uid === look.scaleOf);
  const choose = (next: string): void => {
    const other = others.find(({ uid }) => uid === next);
    if (other !== undefined) {
      onLook({ ...NO_ENDS, scaleOf: other.uid });
      return;
    }
    setKind(next);
    const ends = { low: card.scale?.low ?? tag.range_low, high: card.scale?.high ?? tag.range_high };
    onLook(next === 'fixed' ? { ...NO_ENDS, ...ends } : NO_ENDS);
  };
  return (
    <>
      <Choice
        label={common.scale}
        value={shares ? (look.scaleOf ?? '') : kind}
        options={[
          ...SCALES,
          ...others.map(({ uid, name }) => ({ value: uid, label: fill(wording.thatOfName, { name }) })),
        ]}
        onChange={choose}
      />
      {!shares && kind === 'fixed' && <ScaleFields key={tag.uid} look={look} onLook={onLook} />}
      {!shares && kind === 'tags' && (
        <>
          <TagChoice
            label={wording.lowerEndFrom}
            value={look.lowTag ?? null}
            none={fill(wording.itsRangeValue, { value: tag.range_low })}
            onChange={(uid) => onLook({ lowTag: uid ?? undefined })}
          />
          <TagChoice
            label={wording.upperEndFrom}
            value={look.highTag ?? null}
            none={fill(wording.itsRangeValue, { value: tag.range_high })}
            onChange={(uid) => onLook({ highTag: uid ?? undefined })}
          />
        </>
      )}
    </>
  );
}

interface GuideTagsProps {
  guides: readonly string[];
  onChange: (guides: string[]) => void;
}

const MOST_GUIDES = 4;

/** Tags drawn as guide lines on the pen's scale: set points, alarm limits. */
function GuideTags({ guides, onChange }: GuideTagsProps): ReactElement {
  const shown = guides.length < MOST_GUIDES ? [...guides, null] : guides;
  return (
    <>
      {shown.map((uid, i) => (
        <TagChoice
          key={uid ?? 'next'}
          label={uid === null ? wording.guideLineFromATag : fill(wording.guideLineNumber, { number: i + 1 })}
          value={uid}
          none={common.none}
          onChange={(next) => {
            const others = guides.filter((one) => one !== uid);
            onChange(next === null ? others : [...others, next]);
          }}
        />
      ))}
    </>
  );
}

/** Both ends of a fixed scale; one that would be upside down is said and not taken. */
function ScaleFields({ look, onLook }: LookProps): ReactElement {
  const [ends, setEnds] = useState({ low: look.low ?? 0, high: look.high ?? 100 });
  const wrong = ends.low >= ends.high ? wording.theLowerEndHasToBe : undefined;
  const change = (next: typeof ends): void => {
    setEnds(next);
    if (next.low < next.high) onLook(next);
  };
  return (
    <Pairs>
      <NumberLine
        label={wording.scaleFrom}
        value={ends.low}
        problem={wrong}
        onChange={(low) => change({ ...ends, low })}
      />
      <NumberLine label={common.to} value={ends.high} onChange={(high) => change({ ...ends, high })} />
    </Pairs>
  );
}

/** Constants as guide lines, written with blanks between them. */
function GuideLines({ look, tag, onLook }: LookProps & { tag: Tag }): ReactElement {
  const { unit, range_low: low, range_high: high } = tag;
  const [text, setText] = useState((look.lines ?? []).join('  '));
  const parts = text.split(/[\s;]+/).filter(Boolean);
  const wrong = parts.some((part) => parseNumber(part) === null);
  const atRange = (): void => {
    setText(`${low}  ${high}`);
    onLook({ lines: [low, high] });
  };
  return (
    <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: 1 }}>
      <TextLine
        label={fill(wording.guideLinesAtPart, { part: unit === '' ? '' : `, ${unit}` })}
        value={text}
        placeholder={wording.exampleOfLines}
        unusable={wrong}
        problem={wrong ? wording.writeNumbersWithBlanksBetweenThem : undefined}
        onChange={(next) => {
          setText(next);
          const typed = next.split(/[\s;]+/).filter(Boolean);
          const found = typed.map(parseNumber).filter((one) => one !== null);
          if (found.length === typed.length) onLook({ lines: found });
        }}
      />
      <Button size="small" sx={{ whiteSpace: 'nowrap' }} onClick={atRange}>
        {wording.itsRange}
      </Button>
    </Box>
  );
}
