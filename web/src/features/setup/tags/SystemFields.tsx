/** What is read of the recorder itself. */
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { Choice } from '../../../ui';
import { withField } from '../common/choices';
import { SYSTEM_ITEMS, text, type Address, type Fields } from '../common/protocols';
import { loggersQuery } from '../../../entities/loggers';
import { sourcesQuery } from '../../../entities/sources';

interface SystemFieldsProps {
  address: Address;
  onChange: (address: Address) => void;
  problem?: string | undefined;
}

export function SystemFields({ address, onChange, problem }: SystemFieldsProps): ReactElement {
  const fields: Fields = address;
  const item = text(fields['item']);
  const ofLogger = item.startsWith('logger_');
  const ofSource = item === 'source_state';
  const { data: loggers = [] } = useQuery({ ...loggersQuery, enabled: ofLogger });
  const { data: sources = [] } = useQuery({ ...sourcesQuery, enabled: ofSource });
  const named = ofLogger ? loggers : sources;
  return (
    <>
      <Choice
        label={common.what}
        value={item}
        options={SYSTEM_ITEMS}
        onChange={(next) => onChange({ item: next } as Address)}
        problem={ofLogger || ofSource ? undefined : problem}
      />
      {(ofLogger || ofSource) && (
        <Choice
          label={ofLogger ? wording.ofTheLogger : wording.ofTheSource}
          value={text(fields['of'])}
          options={named.map((one) => ({ value: one.uid, label: one.name }))}
          onChange={(of) => onChange(withField(address, 'of', of))}
          problem={problem}
        />
      )}
    </>
  );
}
