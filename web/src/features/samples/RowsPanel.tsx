/** Which tags a table of samples shows, and what a row is. */
import type { ReactElement } from 'react';
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
  { value: 'time', label: 'a time at which a tag was recorded' },
  { value: 'grid', label: 'a time every …' },
  { value: 'sample', label: 'one sample' },
];
const BETWEEN = [
  { value: 'held', label: 'held since the last sample' },
  { value: 'interpolated', label: 'interpolated' },
];
const ORDERS = [
  { value: 'newest', label: 'Newest first' },
  { value: 'largest', label: 'Largest value first' },
  { value: 'smallest', label: 'Smallest value first' },
];

export function RowsPanel({ state, tags, onChange, onClose }: RowsPanelProps): ReactElement {
  const uids = tags.map((tag) => tag.uid);
  return (
    <Panel title="Tags and rows" width={300} onClose={onClose}>
      <Chosen
        label="Chosen tags"
        entries={tags.map((tag) => ({ key: tag.uid, name: tag.name }))}
        onRemove={(uid) => onChange({ tags: uids.filter((one) => one !== uid) })}
      />
      {uids.length < MOST_TAGS ? (
        <TagChoice
          // Empty again after each one.
          key={uids.length}
          label="Add a tag"
          value={null}
          none="Name, description, unit, equipment"
          onChange={(uid) => uid !== null && !uids.includes(uid) && onChange({ tags: [...uids, uid] })}
        />
      ) : (
        <Told>No more than {MOST_TAGS} tags stand in one table.</Told>
      )}
      <Choice
        label="A row is"
        value={state.layout}
        options={LAYOUTS}
        onChange={(layout) => onChange({ layout: layout as SamplesState['layout'], order: 'newest' })}
      />
      {state.layout === 'grid' && (
        <DurationLine
          label="Every"
          value={state.stepUs}
          onChange={(stepUs) => stepUs >= 1000 && stepUs <= LONGEST_STEP && onChange({ stepUs })}
        />
      )}
      {state.layout === 'sample' ? (
        <Choice
          label="Order"
          value={state.order}
          options={ORDERS}
          onChange={(order) => onChange({ order: order as SamplesState['order'] })}
        />
      ) : (
        <>
          <Choice
            label="Between samples a value is"
            value={state.between}
            options={BETWEEN}
            onChange={(between) => onChange({ between: between as SamplesState['between'] })}
          />
          <Switched
            label="Quality beside each value"
            value={state.marks}
            onChange={(marks) => onChange({ marks })}
          />
        </>
      )}
    </Panel>
  );
}
