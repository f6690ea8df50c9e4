/** Who changed what and when: each import and each change of many objects is one step. */
import { Box, Button } from '@mui/material';
import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { useDeferredValue, useMemo, useState, type ReactElement } from 'react';
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
  'The panel of the set-up file',
  async () => (await import('./DocumentPanel')).DocumentPanel,
);
const StepPanel = lazyPart('The panel of the step', async () => (await import('./StepPanel')).StepPanel);
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
      title="Changes"
      note="Who changed what and when, newest first."
      actions={
        <Button
          size="small"
          variant="outlined"
          onClick={() => {
            show(null);
            setFile(true);
          }}
        >
          The set-up as a file
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
        aria-label="Changes"
        sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', sm: '2fr 1fr' }, gap: 2, mb: 1 }}
      >
        <TextLine
          label="Find"
          value={search}
          placeholder="Name of what was changed, or of who did it"
          onChange={(value) => filter('search', value)}
        />
        <Choice label="of" value={kind} options={KINDS} onChange={(value) => filter('kind', value)} />
      </Box>
      {error !== null && <Told kind="error">{errorText(error)}</Told>}
      <DataTable
        label="Changes"
        columns={columns}
        rows={data?.pages.flat() ?? []}
        keyOf={(row) => String(row.first.change_id)}
        selected={open}
        onSelect={(row) => show(String(row.first.change_id))}
        empty={search === '' && kind === '' ? 'Nothing was changed yet.' : 'No such change is found.'}
        keptAs="changes"
        isPartial={hasNextPage}
      />
      {hasNextPage && (
        <Button size="small" onClick={() => void fetchNextPage()}>
          Older ones
        </Button>
      )}
    </Page>
  );
}

function columnsFor(zone: string): Column<Step>[] {
  const name = (row: Step): string => {
    const others = countOf(row) - 1;
    return others === 0 ? row.first.name : `${row.first.name} and ${others} more`;
  };
  return [
    {
      name: 'When',
      of: (row) => momentText(Number(row.first.created_us), zone),
      value: (row) => row.first.created_us,
      width: '17%',
    },
    { name: 'Who', of: (row) => row.first.person, value: (row) => row.first.person, width: '11%' },
    { name: 'What', of: stepText, value: stepText, width: '20%' },
    { name: 'Name', of: name, value: name, width: '24%' },
    { name: 'Before and after', of: (row) => changesText(row.first), value: (row) => changesText(row.first) },
  ];
}
