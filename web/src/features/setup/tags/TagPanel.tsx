/** One tag: its form, where it is recorded, its end. */
import { Button } from '@mui/material';
import type { ReactElement } from 'react';
import { Link } from 'react-router';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { fill } from '../../../domain/fill';
import { Details } from '../../../ui';
import { shapes } from '../../../ui/form';
import { TAG_NUMBERS, TAG_PLACES, TagFields } from './TagFields';
import { TagRemoval } from './TagRemoval';
import { Duplicate } from '../common/Duplicate';
import { StoredPanel } from '../common/StoredForm';
import { useStoredForm } from '../common/useStoredForm';
import { WhyEmpty } from './WhyEmpty';
import { WriteValue } from '../../../entities/WriteValue';
import { useAskAnew } from '../common/useSave';
import type { Source } from '../../../entities/sources';
import type { TagIn, TagRow } from '../../../entities/tags';
import { changeTags } from '../../../entities/tags';

interface TagPanelProps {
  tag: TagRow;
  sources: readonly Source[];
  onClose: () => void;
}

const SHAPE = shapes.shape(TAG_NUMBERS);

export function TagPanel({ tag, sources, onClose }: TagPanelProps): ReactElement {
  const { uid, recorded, writable } = tag;
  const stored = useStoredForm({
    stored: tag,
    valuesOf,
    shape: SHAPE,
    save: (values: TagIn, base) =>
      changeTags({
        uids: [uid],
        attributes: { ...values },
        revisions: { [uid]: base?.revision ?? tag.revision },
        dry_run: false,
      }),
    versionOf: () => null,
    also: TAG_PLACES,
  });
  const askAnew = useAskAnew();
  const revision = stored.base?.revision ?? tag.revision;
  const protocol = sources.find((one) => one.uid === tag.source)?.protocol ?? 'modbus_tcp';
  return (
    <StoredPanel
      title={tag.name}
      onClose={onClose}
      stored={stored}
      save={common.save}
      said={common.savedItTakesEffectWithin2}
      actions={
        <>
          <Button size="small" component={Link} to={`/trends?tags=${uid}&last=PT10M`}>
            {common.trend}
          </Button>
          <Duplicate uid={uid} />
          <TagRemoval uids={[uid]} name={tag.name} revisions={{ [uid]: revision }} onDone={onClose} />
        </>
      }
    >
      <Details
        rows={[
          [common.source, sources.find((one) => one.uid === tag.source)?.name ?? ''],
          ...recorded.map(
            (one) =>
              [
                fill(wording.recordedByName, { name: one.name }),
                fill(common.textIntoArchive, { text: one.text, archive: one.archive }),
              ] as const,
          ),
          ...(recorded.length === 0 ? [[wording.recorded, wording.notYetChooseItInThe] as const] : []),
        ]}
      />
      {writable && <WriteValue key={uid} tag={tag} onDone={askAnew} />}
      <WhyEmpty uid={uid} />
      <TagFields protocol={protocol} />
    </StoredPanel>
  );
}

function valuesOf(row: TagRow | null): TagIn {
  const known = ['uid', 'revision', 'recorded', 'writable'];
  return Object.fromEntries(Object.entries(row ?? {}).filter(([name]) => !known.includes(name))) as TagIn;
}
