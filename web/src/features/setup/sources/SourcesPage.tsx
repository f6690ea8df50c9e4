/** Sources: where values come from. */
import { Add } from '@mui/icons-material';
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-sources.json';
import { DataTable, useOpen, type Column, Offered } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import { useAddress } from '../../../platform/useAddress';
import { Gone } from '../common/Gone';
import { Page } from '../common/Page';
import { protocolName, whereText } from '../common/protocols';
import { StateWord } from '../common/StateWord';
import { useRecorder } from '../../../entities/health';
import { sourcesQuery, type Source } from '../../../entities/sources';

const SourcePanel = lazyPart(
  wording.thePanelOfTheSource,
  async () => (await import('./SourcePanel')).SourcePanel,
);
const PRELOADED = [SourcePanel];

export function SourcesPage(): ReactElement {
  const { data: sources = [], isSuccess, isFetching } = useQuery(sourcesQuery);
  usePreloaded(isSuccess, PRELOADED);
  const { data: recorder } = useRecorder();
  const { open, like, show, put } = useOpen(useAddress());
  const states = new Map(recorder?.sources.map((one) => [one.uid, one]));
  const chosen = sources.find((one) => one.uid === open);
  const columns: Column<Source>[] = [
    { name: common.name, of: (row) => row.name, value: (row) => row.name, width: '26%' },
    {
      name: common.state,
      value: (row) => states.get(row.uid)?.state ?? 'unknown',
      of: (row) => <StateWord state={states.get(row.uid)?.state ?? 'unknown'} />,
      width: '14%',
    },
    { name: wording.protocol, of: (row) => protocolName(row.protocol), width: '16%' },
    { name: wording.where, of: (row) => whereText(row.protocol, row.config) },
    { name: common.tags, of: (row) => row.tags, value: (row) => row.tags, right: true, width: '8%' },
    { name: common.details, of: (row) => states.get(row.uid)?.detail ?? '' },
  ];
  return (
    <Page
      title={common.sources}
      note={wording.devicesAndServersThatValuesCome}
      actions={
        <Offered>
          <Button size="small" variant="outlined" startIcon={<Add />} onClick={() => show('new')}>
            {wording.addASource}
          </Button>
        </Offered>
      }
      panel={
        open === 'new' || chosen !== undefined ? (
          <SourcePanel
            key={`${open} ${like}`}
            source={chosen ?? null}
            like={sources.find((one) => one.uid === like) ?? null}
            onClose={() => show(null)}
            onMade={put}
          />
        ) : null
      }
    >
      <Gone what={common.aSource} open={open} list={sources} isKnown={isSuccess && !isFetching} />
      <DataTable
        label={common.sources}
        columns={columns}
        rows={sources}
        keyOf={(row) => row.uid}
        selected={open}
        onSelect={(row) => show(row.uid)}
        empty={isSuccess ? wording.thereIsNoSourceYetAdd : ''}
      />
    </Page>
  );
}
