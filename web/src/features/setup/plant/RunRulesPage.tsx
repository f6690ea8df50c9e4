/** Rules by which the recorder finds runs. */
import { Add } from '@mui/icons-material';
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { DataTable, useOpen, type Column } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import { useAddress } from '../../../platform/useAddress';
import { Gone } from '../common/Gone';
import { Page } from '../common/Page';
import { runRulesQuery, type RunRule } from '../../../entities/runs';
import { originLabel } from './runOrigins';

const COLUMNS: Column<RunRule>[] = [
  { name: 'Name', of: (row) => row.name, width: '30%' },
  {
    name: 'A run lasts while',
    of: (row) => (row.origin === 'change' ? 'its tag keeps its value' : originLabel(row.origin)),
  },
  { name: 'Attributes', of: (row) => row.attributes.length, right: true },
  { name: 'State', of: (row) => (row.enabled ? 'watched' : 'switched off') },
];

const RulePanel = lazyPart('The panel of the rule', async () => (await import('./RunRulePanel')).RulePanel);
const PRELOADED = [RulePanel];

export function RunRulesPage(): ReactElement {
  const { data: rules = [], isSuccess, isFetching } = useQuery(runRulesQuery);
  usePreloaded(isSuccess, PRELOADED);
  const { open, like, show, put } = useOpen(useAddress());
  const chosen = rules.find((one) => one.uid === open);
  return (
    <Page
      title="Runs"
      note="How the recorder finds runs: named stretches of time, found again under Runs."
      actions={
        <Button size="small" variant="outlined" startIcon={<Add />} onClick={() => show('new')}>
          Add a rule
        </Button>
      }
      panel={
        open === 'new' || chosen !== undefined ? (
          <RulePanel
            key={`${open} ${like}`}
            rule={chosen ?? null}
            like={rules.find((one) => one.uid === like) ?? null}
            onClose={() => show(null)}
            onMade={put}
          />
        ) : null
      }
    >
      <Gone what="rule" open={open} list={rules} isKnown={isSuccess && !isFetching} />
      <DataTable
        label="Rules of runs"
        columns={COLUMNS}
        rows={rules}
        keyOf={(row) => row.uid}
        selected={open}
        onSelect={(row) => show(row.uid)}
        empty={isSuccess ? 'There is no rule yet: the recorder finds no runs.' : ''}
      />
    </Page>
  );
}
