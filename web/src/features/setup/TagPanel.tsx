/** One tag: its facts, where it is recorded, its end. */
import { Button } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { Link } from 'react-router';
import { client, unwrap } from '../../api/client';
import { Facts, FormActions, Panel, Told } from '../../shared/ui';
import type { Source, TagIn, TagRow } from './queries';
import { TAG_FIELDS, TagFields } from './TagFields';
import { TagRemoval } from './TagRemoval';
import { useSave } from './useSave';
import { WhyEmpty } from './WhyEmpty';
import { WriteValue } from './WriteValue';

interface TagPanelProps {
  tag: TagRow;
  sources: readonly Source[];
  onClose: () => void;
}

export function TagPanel({ tag, sources, onClose }: TagPanelProps): ReactElement {
  const { uid, revision, recorded, writable, ...known } = tag;
  const [facts, setFacts] = useState<TagIn>(known);
  const protocol = sources.find((one) => one.uid === tag.source)?.protocol ?? 'modbus_tcp';
  const saving = useSave(
    async (wanted: TagIn) =>
      unwrap(
        await client.PATCH('/api/setup/tags', {
          body: { uids: [uid], facts: { ...wanted }, revisions: { [uid]: revision }, dry_run: false },
        }),
      ),
    TAG_FIELDS,
  );
  return (
    <Panel title={tag.name} onClose={onClose} onSubmit={() => saving.run(facts)}>
      <Facts
        rows={[
          ['Source', sources.find((one) => one.uid === tag.source)?.name ?? ''],
          ...recorded.map((one) => [`Recorded by ${one.name}`, `${one.text}, into ${one.archive}`] as const),
          ...(recorded.length === 0
            ? [['Recorded', 'not yet: choose it in the list, then a logger'] as const]
            : []),
        ]}
      />
      {writable && <WriteValue uid={uid} kind={tag.value_type} />}
      <WhyEmpty uid={uid} />
      <TagFields tag={facts} protocol={protocol} onChange={setFacts} problem={saving.problem} />
      {saving.general !== null && <Told kind="error">{saving.general}</Told>}
      <FormActions save="Save" busy={saving.busy}>
        <Button size="small" component={Link} to={`/trends?tags=${uid}&last=PT10M`}>
          Trend
        </Button>
        <TagRemoval uids={[uid]} revisions={{ [uid]: revision }} onDone={onClose} />
      </FormActions>
    </Panel>
  );
}
