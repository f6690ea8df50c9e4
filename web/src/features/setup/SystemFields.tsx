/** What is read of the recorder itself. */
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { Choice } from '../../shared/ui';
import { SYSTEM_ITEMS, text, type Address } from './protocols';
import { loggersQuery, sourcesQuery } from './queries';

interface SystemFieldsProps {
  address: Address;
  onChange: (address: Address) => void;
  problem?: string | undefined;
}

export function SystemFields({ address, onChange, problem }: SystemFieldsProps): ReactElement {
  const item = text(address['item']);
  const ofLogger = item.startsWith('logger_');
  const ofSource = item === 'source_state';
  const { data: loggers = [] } = useQuery({ ...loggersQuery, enabled: ofLogger });
  const { data: sources = [] } = useQuery({ ...sourcesQuery, enabled: ofSource });
  const named = ofLogger ? loggers : sources;
  return (
    <>
      <Choice
        label="What"
        value={item}
        options={SYSTEM_ITEMS}
        onChange={(next) => onChange({ item: next })}
        problem={ofLogger || ofSource ? undefined : problem}
      />
      {(ofLogger || ofSource) && (
        <Choice
          label={ofLogger ? 'Of the logger' : 'Of the source'}
          value={text(address['of'])}
          options={named.map((one) => ({ value: one.uid, label: one.name }))}
          onChange={(of) => onChange({ ...address, of })}
          problem={problem}
        />
      )}
    </>
  );
}
