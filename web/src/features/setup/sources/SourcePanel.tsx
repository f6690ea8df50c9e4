/** One source: its settings, a test of it, and its end. */
import type { ReactElement } from 'react';
import { useWatch, type UseFormReturn } from 'react-hook-form';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-sources.json';
import { fill } from '../../../domain/fill';
import { Choice, Pairs, Removal } from '../../../ui';
import { shapes } from '../../../ui/form';
import { OpcUaFields } from './OpcUaFields';
import { SourceField, type SourceForm } from './sourceForm';
import { firstConfig } from '../common/choices';
import { PROTOCOLS, type Protocol } from '../common/protocols';
import { SourceTest } from './SourceTest';
import { copied, Duplicate } from '../common/Duplicate';
import { StoredPanel } from '../common/StoredForm';
import { removedOf, useRemoval } from '../common/useRemoval';
import { useStoredForm } from '../common/useStoredForm';
import type { Source, SourceIn } from '../../../entities/sources';
import { removeSource, saveSource } from '../../../entities/sources';

interface SourcePanelProps {
  source: Source | null;
  /** A new one begins as a copy of this one, but for its password. */
  like: Source | null;
  onClose: () => void;
  onMade: (uid: string) => void;
}

const { number, optional } = shapes;
const SHAPE = shapes.shape({
  config: shapes.shape({ port: optional(number), unit: optional(number), timeout_s: optional(number) }),
});
const ALSO = { trusted: 'config.security', mode: 'config.security' };

export function SourcePanel({ source, like, onClose, onMade }: SourcePanelProps): ReactElement {
  const stored = useStoredForm({
    stored: source,
    valuesOf: (version) => copied(valuesOf(version ?? like), version === null && like !== null),
    shape: SHAPE,
    save: (values: SourceForm, base) => saveSource(base, values as SourceIn),
    versionOf: (made) => made,
    onDone: (made) => onMade(made.uid),
    also: ALSO,
  });
  const removing = useRemoval(
    removeSource,
    {
      ...removedOf(source),
      lost: source?.has_secret === true ? wording.itsPasswordWasNotKeptGive : '',
    },
    onClose,
  );
  return (
    <StoredPanel
      title={source === null ? wording.aNewSource : source.name}
      onClose={onClose}
      stored={stored}
      save={source === null ? common.add : common.save}
      said={source === null ? null : common.savedItTakesEffectWithin2}
      actions={
        source !== null && (
          <>
            <Duplicate uid={source.uid} />
            <Removal
              what={source.name}
              busy={removing.busy}
              problem={removing.general}
              onRemove={() => removing.run(source)}
            >
              {source.tags === 0
                ? wording.theSourceGoesItHasNo
                : fill(wording.theSourceGoesWithItsTags, { tags: source.tags })}
            </Removal>
          </>
        )
      }
    >
      <SourceField.Text name="name" label={common.name} autoFocus={source === null} />
      <Settings source={source} form={stored.form} />
    </StoredPanel>
  );
}

/** What its protocol asks for, and a try of it. */
function Settings({
  source,
  form,
}: {
  source: Source | null;
  form: UseFormReturn<SourceForm>;
}): ReactElement {
  const [protocol, config, secret] = useWatch({
    control: form.control,
    name: ['protocol', 'config', 'secret'],
  });
  const begin = (next: Protocol): void => {
    form.setValue('protocol', next, { shouldDirty: true });
    form.setValue('config', firstConfig(next), { shouldDirty: true });
  };
  return (
    <>
      <Choice
        label={wording.protocol}
        value={protocol}
        options={PROTOCOLS}
        disabled={source !== null}
        onChange={(next) => begin(next)}
      />
      {protocol === 'modbus_tcp' && (
        <>
          <SourceField.Text name="config.host" label={wording.host} />
          <Pairs>
            <SourceField.Number name="config.port" label={wording.port} />
            <SourceField.Number name="config.unit" label={common.unit} />
            <SourceField.Number name="config.timeout_s" label={wording.answersWithinS} />
          </Pairs>
        </>
      )}
      {protocol === 'opc_ua' && <OpcUaFields form={form} kept={source?.has_secret ?? false} />}
      <SourceField.Switch name="enabled" label={wording.switchedOn} />
      <SourceTest protocol={protocol} config={config} secret={secret} source={source?.uid ?? ''} />
    </>
  );
}

function valuesOf(source: Source | null): SourceForm {
  if (source === null) {
    return {
      name: '',
      protocol: 'modbus_tcp',
      config: firstConfig('modbus_tcp'),
      enabled: true,
      secret: null,
    };
  }
  const { name, protocol, config, enabled } = source;
  return { name, protocol, config: { ...firstConfig(protocol), ...config }, enabled, secret: null };
}
