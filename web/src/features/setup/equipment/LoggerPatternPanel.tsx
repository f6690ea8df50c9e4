/** A logger that each piece has: how often, and which tags. */
import { Box, Checkbox, FormControlLabel } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-equipment.json';
import { fill } from '../../../domain/fill';
import { DurationLine, Panel, TextLine } from '../../../ui';
import { toggled, withLogger, type ClassIn } from './equipment';

interface LoggerPatternPanelProps {
  draft: ClassIn;
  logger: string;
  onDraft: (draft: ClassIn) => void;
  onClose: () => void;
}

export function LoggerPatternPanel({
  draft,
  logger,
  onDraft,
  onClose,
}: LoggerPatternPanelProps): ReactElement | null {
  const found = draft.loggers.find((one) => one.key === logger);
  if (found === undefined) return null;
  const put = (settings: Record<string, unknown>): void => onDraft(withLogger(draft, logger, settings));
  const tags = (found.settings['tags'] as string[] | undefined) ?? [];
  return (
    <Panel title={fill(wording.loggerLogger, { logger })} onClose={onClose}>
      <TextLine
        label={wording.loggerNamePattern}
        value={String(found.settings['name'])}
        onChange={(name) => put({ name })}
        hint={wording.nameIsTheNameOfThe}
      />
      {found.settings['mode'] === 'periodic' && (
        <DurationLine
          label={common.every}
          value={Number(found.settings['interval_us'])}
          onChange={(interval_us) => put({ interval_us })}
        />
      )}
      <Box component="fieldset" sx={{ border: 0, p: 0, m: 0 }}>
        <Box component="legend" sx={{ typography: 'caption', color: 'text.secondary' }}>
          {wording.tagsThatItRecords}
        </Box>
        {draft.members.map(({ key }) => (
          <Box key={key}>
            <FormControlLabel
              control={
                <Checkbox
                  size="small"
                  checked={tags.includes(`{tag:${key}}`)}
                  onChange={() => put({ tags: toggled(tags, `{tag:${key}}`) })}
                  sx={{ py: 0.25 }}
                />
              }
              label={key}
            />
          </Box>
        ))}
      </Box>
    </Panel>
  );
}
