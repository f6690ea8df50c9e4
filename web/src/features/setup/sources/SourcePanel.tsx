/** One source: its settings, a test of it, and its end. */
import type { ReactElement } from 'react';
import {
  Choice,
  FormActions,
  NumberLine,
  Pairs,
  Panel,
  Removal,
  Switched,
  TextLine,
  Told,
} from '../../../ui';
import { Elsewhere } from '../tags/Elsewhere';
import { OpcUaFields } from './OpcUaFields';
import { firstConfig, numberOf, PROTOCOLS, text, type Fields, type Protocol } from '../common/protocols';
import { SourceTest } from './SourceTest';
import { useDraft } from '../common/useDraft';
import { useSave } from '../common/useSave';
import type { Source, SourceIn } from '../../../entities/sources';
import { removeSource, saveSource } from '../../../entities/sources';

interface SourcePanelProps {
  source: Source | null;
  onClose: () => void;
  onMade: (uid: string) => void;
}

/** A source while it is edited. */
interface SourceForm {
  name: string;
  protocol: Protocol;
  config: Fields;
  enabled: boolean;
  secret?: string | null;
}

const SHOWN = [
  ...['name', 'protocol', 'host', 'port', 'unit', 'timeout_s'],
  ...['endpoint', 'security', 'mode', 'trusted', 'user', 'secret'],
];

export function SourcePanel({ source, onClose, onMade }: SourcePanelProps): ReactElement {
  const draft = useDraft(source, first);
  const { form, set, base } = draft;
  const { config } = form;
  const setting = (name: string) => (value: unknown) => set({ config: { ...config, [name]: value } });
  const saving = useSave(
    (form: SourceForm) => saveSource(base, form as SourceIn),
    SHOWN,
    (made) => onMade(made.uid),
    draft.saved,
  );
  const removing = useSave(removeSource, [], onClose);
  return (
    <Panel
      title={source === null ? 'A new source' : source.name}
      onClose={onClose}
      onSubmit={() => saving.run(form)}
    >
      <TextLine
        label="Name"
        value={form.name}
        autoFocus={source === null}
        onChange={(name) => set({ name })}
        problem={saving.problem('name')}
      />
      <Choice
        label="Protocol"
        value={form.protocol}
        options={PROTOCOLS}
        disabled={source !== null}
        onChange={(next) => set({ protocol: next as Protocol, config: firstConfig(next) })}
      />
      {form.protocol === 'modbus_tcp' && (
        <>
          <TextLine
            label="Host"
            value={text(config['host'])}
            onChange={setting('host')}
            problem={saving.problem('host')}
          />
          <Pairs>
            <NumberLine
              label="Port"
              value={numberOf(config['port'], 502)}
              onChange={setting('port')}
              problem={saving.problem('port')}
            />
            <NumberLine
              label="Unit"
              value={numberOf(config['unit'], 1)}
              onChange={setting('unit')}
              problem={saving.problem('unit')}
            />
            <NumberLine
              label="Answers within, s"
              value={numberOf(config['timeout_s'], 1)}
              onChange={setting('timeout_s')}
              problem={saving.problem('timeout_s')}
            />
          </Pairs>
        </>
      )}
      {form.protocol === 'opc_ua' && (
        <OpcUaFields
          config={config}
          secret={form.secret ?? null}
          kept={source?.has_secret ?? false}
          onConfig={(next) => set({ config: next })}
          onSecret={(secret) => set({ secret })}
          problem={saving.problem}
        />
      )}
      <Switched label="Switched on" value={form.enabled} onChange={(enabled) => set({ enabled })} />
      <SourceTest
        protocol={form.protocol}
        config={config}
        secret={form.secret ?? null}
        source={source?.uid ?? ''}
      />
      {saving.general !== null && <Told kind="error">{saving.general}</Told>}
      <Elsewhere clashes={draft.clashes} refused={saving.refused} onTake={draft.takeTheirs} />
      {saving.done && source !== null && <Told kind="good">Saved. It is at work within 2 s.</Told>}
      <FormActions save={source === null ? 'Add' : 'Save'} busy={saving.busy}>
        {source !== null && (
          <Removal
            what={source.name}
            busy={removing.busy}
            problem={removing.general}
            onRemove={() => removing.run(source)}
          >
            {source.tags === 0
              ? 'The source goes. It has no tags.'
              : `The source goes, with its ${source.tags} tags, and they leave their loggers. What was recorded stays.`}
          </Removal>
        )}
      </FormActions>
    </Panel>
  );
}

function first(source: Source | null): SourceForm {
  if (source === null) {
    return { name: '', protocol: 'modbus_tcp', config: firstConfig('modbus_tcp'), enabled: true };
  }
  const { name, protocol, config, enabled } = source;
  return { name, protocol, config, enabled };
}
