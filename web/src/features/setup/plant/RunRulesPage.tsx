/** Rules by which the recorder finds runs. */
import { Add } from '@mui/icons-material';
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-plant.json';
import { DataTable, useOpen, type Column, Offered } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import { useAddress } from '../../../platform/useAddress';
import { Gone } from '../common/Gone';
import { Page } from '../common/Page';
import { runRulesQuery, type RunRule } from '../../../entities/runs';
import { originLabel } from './runOrigins';

const COLUMNS: Column<RunRule>[] = [
  { name: common.name, of: (row) => row.name, width: '30%' },
  {
    name: wording.aRunLastsWhile,
    of: (row) => (row.origin === 'change' ? wording.itsTagKeepsItsValue : originLabel(row.origin)),
  },
  { name: common.attributes, of: (row) => row.attributes.length, right: true },
  { name: common.state, of: (row) => (row.enabled ? 'watched' : common.switchedOff) },
];

const RulePanel = lazyPart(wording.thePanelOfTheRule, async () => (await import('./RunRulePanel')).RulePanel);
const PRELOADED = [RulePanel];

export function RunRulesPage(): ReactElement {
  const { data: rules = [], isSuccess, isFetching } = useQuery(runRulesQuery);
  usePreloaded(isSuccess, PRELOADED);
  const { open, like, show, put } = useOpen(useAddress());
  const chosen = rules.find((one) => one.uid === open);
  return (
    <Page
      title={common.runs}
      note={wording.howTheRecorderFindsRunsNamed}
      actions={
        <Offered>
          <Button size="small" variant="outlined" startIcon={<Add />} onClick={() => show('new')}>
            {wording.addARule}
          </Button>
        </Offered>
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
      <Gone what={wording.rule} open={open} list={rules} isKnown={isSuccess && !isFetching} />
      <DataTable
        label={wording.rulesOfRunsLabel}
        columns={COLUMNS}
        rows={rules}
        keyOf={(row) => row.uid}
        selected={open}
        onSelect={(row) => show(row.uid)}
        empty={isSuccess ? wording.thereIsNoRuleYetThe : ''}
      />
    </Page>
  );
}
