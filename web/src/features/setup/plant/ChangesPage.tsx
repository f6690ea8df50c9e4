/** Who changed what and when: each import and each change of many objects is one step. */
import { Box, Button } from '@mui/material';
import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { useDeferredValue, useMemo, useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-plant.json';
import { fill } from '../../../domain/fill';
import { momentText } from '../../../domain/time';
import { errorText } from '../../../platform/errors';
import { useAddress } from '../../../platform/useAddress';
import { Choice, DataTable, TextLine, Told, useOpen, type Column } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import { Page } from '../common/Page';
import { plantQuery } from '../../../entities/plant';
import { stepsQuery, type Step } from '../../../entities/setup';
import { changesText, countOf, KINDS, stepText } from './changeTexts';

const DocumentPanel = lazyPart(
  wording.thePanelOfTheSetUp,
  async () => (await import('./DocumentPanel')).DocumentPanel,
);
const StepPanel = lazyPart(wording.thePanelOfTheStep, async () => (await import('./StepPanel')).StepPanel);
const PRELOADED = [DocumentPanel, StepPanel];

export function ChangesPage(): ReactElement {
  const address = useAddress();
  const [params, write] = address;
  const kind = params.get('kind') ?? '';
  const search = params.get('search') ?? '';
  const { open, show } = useOpen(address);
  const [file, setFile] = useState(false);
  const { data, error, hasNextPage, fetchNextPage } = useInfiniteQuery(
    stepsQuery(kind, useDeferredValue(search)),
  );
  usePreloaded(data !== undefined, PRELOADED);
  const { data: plant } = useQuery(plantQuery);
  const zone = plant?.zone ?? 'UTC';
  const columns = useMemo(() => columnsFor(zone), [zone]);
  const filter = (key: string, value: string): void => {
    const next = new URLSearchParams(params);
    if (value === '') next.delete(key);
    else next.set(key, value);
    write(next);
  };
  const changeId = Number(open);
  const isStep = open !== null && Number.isInteger(changeId);
  return (
    <Page
      title={common.changes}
      note={wording.whoChangedWhatAndWhenNewest}
      actions={
        <Button
          size="small"
          variant="outlined"
          onClick={() => {
            show(null);
            setFile(true);
          }}
        >
          {wording.theSetUpAsAFile}
        </Button>
      }
      panel={
        isStep ? (
          <StepPanel key={open} changeId={changeId} onClose={() => show(null)} />
        ) : file ? (
          <DocumentPanel onClose={() => setFile(false)} />
        ) : null
      }
    >
      <Box
        role="search"
        aria-label={common.changes}
        sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', sm: '2fr 1fr' }, gap: 2, mb: 1 }}
      >
        <TextLine
          label={common.find}
          value={search}
          placeholder={wording.nameOfWhatWasChangedOr}
          onChange={(value) => filter('search', value)}
        />
        <Choice label={wording.of} value={kind} options={KINDS} onChange={(value) => filter('kind', value)} />
      </Box>
      {error !== null && <Told kind="error">{errorText(error)}</Told>}
      <DataTable
        label={common.changes}
        columns={columns}
        rows={data?.pages.flat() ?? []}
        keyOf={(row) => String(row.first.change_id)}
        selected={open}
        onSelect={(row) => show(String(row.first.change_id))}
        empty={search === '' && kind === '' ? wording.nothingWasChangedYet : wording.noSuchChangeIsFound}
        keptAs="changes"
        isPartial={hasNextPage}
      />
      {hasNextPage && (
        <Button size="small" onClick={() => void fetchNextPage()}>
          {common.olderOnes}
        </Button>
      )}
    </Page>
  );
}

function columnsFor(zone: string): Column<Step>[] {
  const name = (row: Step): string => {
    const others = countOf(row) - 1;
    return others === 0 ? row.first.name : fill(wording.nameAndOthersMore, { name: row.first.name, others });
  };
  return [
    {
      name: common.when,
      of: (row) => momentText(Number(row.first.created_us), zone),
      value: (row) => row.first.created_us,
      width: '17%',
    },
    { name: wording.who, of: (row) => row.first.person, value: (row) => row.first.person, width: '11%' },
    { name: common.what, of: stepText, value: stepText, width: '20%' },
    { name: common.name, of: name, value: name, width: '24%' },
    {
      name: wording.beforeAndAfter,
      of: (row) => changesText(row.first),
      value: (row) => changesText(row.first),
    },
  ];
}
