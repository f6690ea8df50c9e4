/** One tag: its form, where it is recorded, its end. */
import { Button } from '@mui/material';
import type { ReactElement } from 'react';
import { Link } from 'react-router';
import { Details, FormActions, Panel, Told } from '../../../ui';
import { Elsewhere } from './Elsewhere';
import { TAG_FIELDS, TagFields } from './TagFields';
import { TagRemoval } from './TagRemoval';
import { useDraft } from '../common/useDraft';
import { useSave } from '../common/useSave';
import { WhyEmpty } from './WhyEmpty';
import { WriteValue } from './WriteValue';
import type { Source } from '../../../entities/sources';
import type { TagIn, TagRow } from '../../../entities/tags';
import { changeTags } from '../../../entities/tags';

interface TagPanelProps {
  tag: TagRow;
  sources: readonly Source[];
  onClose: () => void;
}

export function TagPanel({ tag, sources, onClose }: TagPanelProps): ReactElement {
  const { uid, recorded, writable } = tag;
  const draft = useDraft<TagRow, TagIn>(tag, formOf);
  const revision = draft.base?.revision ?? tag.revision;
  const protocol = sources.find((one) => one.uid === tag.source)?.protocol ?? 'modbus_tcp';
  const saving = useSave(
    (form: TagIn) =>
      changeTags({ uids: [uid], attributes: { ...form }, revisions: { [uid]: revision }, dry_run: false }),
    TAG_FIELDS,
    undefined,
    () => draft.saved(null),
  );
  return (
    <Panel title={tag.name} onClose={onClose} onSubmit={() => saving.run(draft.form)}>
      <Details
        rows={[
          ['Source', sources.find((one) => one.uid === tag.source)?.name ?? ''],
          ...recorded.map((one) => [`Recorded by ${one.name}`, `${one.text}, into ${one.archive}`] as const),
          ...(recorded.length === 0
            ? [['Recorded', 'not yet: choose it in the list, then a logger'] as const]
            : []),
        ]}
      />
      {writable && <WriteValue key={uid} tag={tag} />}
      <WhyEmpty uid={uid} />
      <TagFields tag={draft.form} protocol={protocol} onChange={draft.set} problem={saving.problem} />
      {saving.general !== null && <Told kind="error">{saving.general}</Told>}
      <Elsewhere clashes={draft.clashes} refused={saving.refused} onTake={draft.takeTheirs} />
      {saving.done && <Told kind="good">Saved. It is at work within 2 s.</Told>}
      <FormActions save="Save" busy={saving.busy}>
        <Button size="small" component={Link} to={`/trends?tags=${uid}&last=PT10M`}>
          Trend
        </Button>
        <TagRemoval uids={[uid]} revisions={{ [uid]: revision }} onDone={onClose} />
      </FormActions>
    </Panel>
  );
}

function formOf(row: TagRow | null): TagIn {
  const known = ['uid', 'revision', 'recorded', 'writable'];
  return Object.fromEntries(Object.entries(row ?? {}).filter(([name]) => !known.includes(name))) as TagIn;
}
