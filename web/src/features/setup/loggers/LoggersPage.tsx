/** Loggers: which tags are recorded into which archive, and when. */
import { Add } from '@mui/icons-material';
import { Box, Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-loggers.json';
import { DataTable, useLeave, useOpen, type Column, Offered } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import { useAddress } from '../../../platform/useAddress';
import { Gone } from '../common/Gone';
import { Page } from '../common/Page';
import type { Rehearsing, Tried } from './Rehearse';
import { StateWord } from '../common/StateWord';
import { archivesQuery } from '../../../entities/archives';
import { loggersQuery, type Logger } from '../../../entities/loggers';
import { useRecorder } from '../../../entities/health';

const LoggerPanel = lazyPart(
  wording.thePanelOfTheLogger,
  async () => (await import('./LoggerPanel')).LoggerPanel,
);
const RehearseView = lazyPart(wording.theRehearsal, async () => (await import('./Rehearse')).RehearseView);
const PRELOADED = [LoggerPanel, RehearseView];

export function LoggersPage(): ReactElement {
  const { data: loggers = [], isSuccess, isFetching } = useQuery(loggersQuery);
  usePreloaded(isSuccess, PRELOADED);
  const { data: archives = [] } = useQuery(archivesQuery);
  const { data: recorder } = useRecorder();
  const { open, like, put: setOpen } = useOpen(useAddress());
  const [rehearsing, setRehearsing] = useState<Rehearsing | null>(null);
  const [taken, setTaken] = useState<Tried | null>(null);
  const working = new Map(recorder?.loggers.map((one) => [one.uid, one]));
  const names = new Map(archives.map((one) => [one.uid, one.name]));
  const chosen = loggers.find((one) => one.uid === open);
  const leave = useLeave();
  const put = (uid: string | null): void => {
    setOpen(uid);
    setRehearsing(null);
    setTaken(null);
  };
  const show = (uid: string | null): void => leave(() => put(uid));
  const columns: Column<Logger>[] = [
    { name: common.name, of: (row) => row.name, value: (row) => row.name, width: '24%' },
    {
      name: common.state,
      value: (row) => working.get(row.uid)?.state ?? 'unknown',
      of: (row) => <StateWord state={working.get(row.uid)?.state ?? 'unknown'} />,
      width: '14%',
    },
    { name: common.records, of: (row) => row.text, value: (row) => row.text },
    {
      name: common.archive,
      of: (row) => names.get(row.archive) ?? '',
      value: (row) => names.get(row.archive) ?? '',
      width: '16%',
    },
    {
      name: common.tags,
      of: (row) => row.tags.length,
      value: (row) => row.tags.length,
      right: true,
      width: '8%',
    },
    {
      name: common.samplesASecond,
      value: (row) => working.get(row.uid)?.samples_per_second ?? null,
      of: (row) => working.get(row.uid)?.samples_per_second?.toFixed(1) ?? '–',
      right: true,
    },
  ];
  return (
    <Page
      title={common.loggers}
      note={wording.whichTagsAreRecordedIntoWhich}
      actions={
        <Offered>
          <Button size="small" variant="outlined" startIcon={<Add />} onClick={() => show('new')}>
            {wording.addALogger}
          </Button>
        </Offered>
      }
      panel={
        open === 'new' || chosen !== undefined ? (
          <LoggerPanel
            key={`${open} ${like}`}
            logger={chosen ?? null}
            like={loggers.find((one) => one.uid === like) ?? null}
            archives={archives}
            taken={taken}
            onClose={() => show(null)}
            onMade={put}
            onRehearse={setRehearsing}
          />
        ) : null
      }
    >
      <Gone what={common.aLogger} open={open} list={loggers} isKnown={isSuccess && !isFetching} />
      {rehearsing === null ? (
        <DataTable
          label={common.loggers}
          columns={columns}
          rows={loggers}
          keyOf={(row) => row.uid}
          selected={open}
          onSelect={(row) => show(row.uid)}
          empty={isSuccess ? wording.nothingIsRecordedYetAddA : ''}
        />
      ) : (
        <Box>
          <RehearseView
            rehearsing={rehearsing}
            onClose={() => setRehearsing(null)}
            onTake={(rule) => setTaken({ ...rule })}
          />
        </Box>
      )}
    </Page>
  );
}
