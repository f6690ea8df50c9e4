/** One archive: what it keeps, and what its limits would delete. */
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { useWatch, type Control } from 'react-hook-form';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-plant.json';
import { fill } from '../../../domain/fill';
import { momentText } from '../../../domain/time';
import { Details, Removal, Switched, Told } from '../../../ui';
import { fieldsOf, shapes } from '../../../ui/form';
import { copied, Duplicate } from '../common/Duplicate';
import { StoredPanel } from '../common/StoredForm';
import { removedOf, useRemoval } from '../common/useRemoval';
import { useStoredForm } from '../common/useStoredForm';
import { plantQuery } from '../../../entities/plant';
import {
  retentionQuery,
  type Archive,
  type ArchiveIn,
  saveArchive,
  removeArchive,
} from '../../../entities/archives';
import { MB, whole } from './archiveTexts';

interface ArchivePanelProps {
  archive: Archive | null;
  /** A new one begins as a copy of this one. */
  like: Archive | null;
  onClose: () => void;
  onMade: (uid: string) => void;
}

/** An archive while it is edited; 0 is no limit. */
type ArchiveForm = Omit<ArchiveIn, 'keep_us' | 'keep_bytes'> & { keep_us: number; keep_mb: number };

const Fields = fieldsOf<ArchiveForm>();
const SHAPE = shapes.shape({ keep_us: shapes.duration, keep_mb: shapes.number });

export function ArchivePanel({ archive, like, onClose, onMade }: ArchivePanelProps): ReactElement {
  const { data: plant } = useQuery(plantQuery);
  const stored = useStoredForm({
    stored: archive,
    valuesOf: (version) => copied(valuesOf(version ?? like), version === null && like !== null),
    shape: SHAPE,
    save: (values: ArchiveForm, base) => saveArchive(base, bodyOf(values)),
    versionOf: (made) => made,
    onDone: (made) => onMade(made.uid),
    also: { keep_bytes: 'keep_mb' },
  });
  const removing = useRemoval(removeArchive, removedOf(archive), onClose);
  const zone = plant?.zone ?? 'UTC';
  return (
    <StoredPanel
      title={archive === null ? wording.aNewArchive : archive.name}
      onClose={onClose}
      stored={stored}
      save={archive === null ? common.add : common.save}
      said={archive === null ? null : wording.saved}
      actions={
        archive !== null && (
          <>
            <Duplicate uid={archive.uid} />
            <Removal
              what={archive.name}
              busy={removing.busy}
              problem={removing.general}
              onRemove={() => removing.run(archive)}
            >
              {wording.theArchiveGoesThatCanBe}
            </Removal>
          </>
        )
      }
    >
      <Fields.Text name="name" label={common.name} />
      <Fields.Duration name="keep_us" label={wording.retention} none={wording.forEver} />
      <Fields.Number name="keep_mb" label={wording.atMostMb0NoLimit} />
      <Fields.Switch name="thin" label={wording.keepSummariesOfExpiredSamples} />
      <Limits archive={archive} zone={zone} control={stored.form.control} />
      <LiveOnly control={stored.form.control} />
      {archive !== null && (
        <Details
          rows={[
            [common.firstSample, archive.first_us == null ? '–' : momentText(Number(archive.first_us), zone)],
            [wording.liesIn, archive.disk],
            [common.lastSample, archive.last_us == null ? '–' : momentText(Number(archive.last_us), zone)],
          ]}
        />
      )}
    </StoredPanel>
  );
}

interface WatchingProps {
  control: Control<ArchiveForm>;
}

/** What its limits mean. */
function Limits({
  archive,
  zone,
  control,
}: WatchingProps & { archive: Archive | null; zone: string }): ReactElement | null {
  const form = useWatch({ control });
  const { keep_us, keep_mb, thin = false } = form;
  const known = typeof keep_us === 'number' && typeof keep_mb === 'number';
  if (!known || (keep_us === 0 && keep_mb === 0)) return null;
  return (
    <>
      <Told>
        {keep_mb === 0 ? wording.whatIsOlderIsDeletedWithin : wording.whatIsOlderOrTooMuchIsDeleted}
      </Told>
      {archive !== null && (
        <Doomed
          uid={archive.uid}
          form={bodyOf({ ...valuesOf(archive), keep_us, keep_mb, thin })}
          zone={zone}
        />
      )}
    </>
  );
}

/** Scratch work, or the place where it lies. */
function LiveOnly({ control }: WatchingProps): ReactElement {
  const isLiveOnly = useWatch({ control, name: 'live_only' });
  return (
    <>
      <Fields.Part<boolean> name="live_only">
        {({ value, onChange, problem }) => (
          <>
            <Switched label={wording.liveOnlyForScratchWork} value={value} onChange={onChange} />
            {problem !== undefined && <Told kind="error">{problem}</Told>}
          </>
        )}
      </Fields.Part>
      {isLiveOnly ? (
        <Told kind="error">{wording.whateverItHoldsIsLostEach}</Told>
      ) : (
        <Fields.Text
          name="directory"
          label={wording.directoryOnTheDatabasesHost}
          placeholder={wording.whereTheDatabaseLies}
          hint={wording.newMonthsArePutThereThose}
        />
      )}
    </>
  );
}

function valuesOf(archive: Archive | null): ArchiveForm {
  return {
    name: archive?.name ?? '',
    keep_us: archive?.keep_us ?? 0,
    keep_mb: (archive?.keep_bytes ?? 0) / MB,
    thin: archive?.thin ?? false,
    live_only: archive?.live_only ?? false,
    directory: archive?.directory ?? '',
  };
}

function bodyOf({ keep_us, keep_mb, ...others }: ArchiveForm): ArchiveIn {
  return {
    ...others,
    keep_us: keep_us === 0 ? null : keep_us,
    keep_bytes: keep_mb === 0 ? null : Math.round(keep_mb * MB),
  };
}

/** What the limits in the form would delete now. */
function Doomed({ uid, form, zone }: { uid: string; form: ArchiveIn; zone: string }): ReactElement | null {
  const { data } = useQuery(retentionQuery(uid, form));
  if (data === undefined) return null;
  if (data.samples === 0 || data.cut_us == null) return <Told kind="good">{wording.nothingWouldGoNow}</Told>;
  return (
    <Told kind="error">
      {fill(form.thin ? wording.samplesWouldGoSummariesStay : wording.samplesFromBeforeMomentWouldGo, {
        samples: whole(data.samples),
        moment: momentText(Number(data.cut_us), zone),
        size: (data.months.reduce((sum, one) => sum + one.bytes, 0) / MB).toFixed(1),
      })}
    </Told>
  );
}
