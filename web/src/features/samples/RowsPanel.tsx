/** Which tags a table of samples shows, and what a row is. */
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/samples.json';
import { fill } from '../../domain/fill';
import { TagChoice } from '../../entities/TagChoice';
import type { Tag } from '../../platform/client';
import { Choice, DurationLine, Panel, Switched, Told } from '../../ui';
import { Chosen } from '../../ui/fields/Chosen';
import { LONGEST_STEP, MOST_TAGS, type SamplesState } from './state';

interface RowsPanelProps {
  state: SamplesState;
  tags: readonly Tag[];
  onChange: (more: Partial<SamplesState>) => void;
  onClose: () => void;
}

const LAYOUTS = [
  { value: 'time', label: wording.aTimeAtWhichATag },
  { value: 'grid', label: wording.aTimeEvery },
  { value: 'sample', label: wording.oneSample },
];
const BETWEEN = [
  { value: 'held', label: wording.heldSinceTheLastSample },
  { value: 'interpolated', label: wording.interpolated },
];
const ORDERS = [
  { value: 'newest', label: wording.newestFirst },
  { value: 'largest', label: wording.largestValueFirst },
  { value: 'smallest', label: wording.smallestValueFirst },
];

export function RowsPanel({ state, tags, onChange, onClose }: RowsPanelProps): ReactElement {
  const uids = tags.map((tag) => tag.uid);
  return (
    <Panel title={wording.tagsAndRows} width={300} onClose={onClose}>
      <Chosen
        label={wording.chosenTags}
        entries={tags.map((tag) => ({ key: tag.uid, name: tag.name }))}
        onRemove={(uid) => onChange({ tags: uids.filter((one) => one !== uid) })}
      />
      {uids.length < MOST_TAGS ? (
        <TagChoice
          adds
          label={common.addATag}
          value={null}
          none={common.nameDescriptionUnitEquipment}
          onChange={(uid) => uid !== null && !uids.includes(uid) && onChange({ tags: [...uids, uid] })}
        />
      ) : (
        <Told>{fill(wording.noMoreThanValueTagsStand, { value: MOST_TAGS })}</Told>
      )}
      <Choice
        label={wording.aRowIs}
        value={state.layout}
        options={LAYOUTS}
        onChange={(layout) => onChange({ layout: layout as SamplesState['layout'], order: 'newest' })}
      />
      {state.layout === 'grid' && (
        <DurationLine
          label={common.every}
          value={state.stepUs}
          onChange={(stepUs) => stepUs >= 1000 && stepUs <= LONGEST_STEP && onChange({ stepUs })}
        />
      )}
      {state.layout === 'sample' ? (
        <>
          <Choice
            label={wording.order}
            value={state.order}
            options={ORDERS}
            onChange={(order) => onChange({ order: order as SamplesState['order'] })}
          />
          {state.order !== 'newest' && <Told>{wording.orderedByValueTheTableFollows}</Told>}
        </>
      ) : (
        <>
          <Choice
            label={wording.betweenSamplesAValueIs}
            value={state.between}
            options={BETWEEN}
            onChange={(between) => onChange({ between: between as SamplesState['between'] })}
          />
          <Switched
            label={wording.qualityBesideEachValue}
            value={state.marks}
            onChange={(marks) => onChange({ marks })}
          />
        </>
      )}
    </Panel>
  );
}
