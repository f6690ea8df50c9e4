/** The set-up as a file: out whole, in with its differences read first. */
import { Box, Button, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-plant.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { Panel, Told, Offered } from '../../../ui';
import { useSave } from '../common/useSave';
import type { DocumentReport } from '../../../entities/setup';
import { sendDocument } from '../../../entities/setup';
import { served } from '../../../platform/configuration';

const MOST_SHOWN = 200;

export function DocumentPanel({ onClose }: { onClose: () => void }): ReactElement {
  const [document, setDocument] = useState<Record<string, unknown> | null>(null);
  const [report, setReport] = useState<DocumentReport | null>(null);
  const [unreadable, setUnreadable] = useState<string | null>(null);
  const sending = useSave(
    ({ body, write }: { body: Record<string, unknown>; write: boolean }) => sendDocument(body, write),
    setReport,
  );
  const read = async (file: File): Promise<void> => {
    setReport(null);
    setUnreadable(null);
    try {
      const body = JSON.parse(await file.text()) as Record<string, unknown>;
      setDocument(body);
      sending.run({ body, write: false });
    } catch (error) {
      setUnreadable(fill(wording.nameIsNoJsonError, { name: file.name, error: errorText(error) }));
    }
  };
  return (
    <Panel title={wording.theSetUpAsAFile} onClose={onClose}>
      <Typography variant="body2">{wording.plantSourcesTagsArchivesAndLoggers}</Typography>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button size="small" variant="outlined" href={served('/api/setup/document')}>
          {common.exportLabel}
        </Button>
        <Offered>
          <Button size="small" variant="outlined" component="label">
            {wording.importLabel}
            <input
              hidden
              type="file"
              accept=".json"
              aria-label={wording.fileWithASetUp}
              onChange={(event) => {
                const file = event.target.files?.[0];
                event.target.value = '';
                if (file !== undefined) void read(file);
              }}
            />
          </Button>
        </Offered>
        <Button size="small" href={served('/api/setup/document/schema')}>
          {wording.itsFormJsonSchema}
        </Button>
      </Box>
      {unreadable !== null && <Told kind="error">{unreadable}</Told>}
      {sending.general !== null && <Told kind="error">{sending.general}</Told>}
      {report !== null && (
        <>
          <Told kind={report.written ? 'good' : 'plain'}>
            {report.differences.length === 0
              ? wording.theFileSaysNothingThatIs
              : fill(report.written ? wording.objectsWereWritten : wording.objectsWouldBeWritten, {
                  objects: report.differences.length,
                })}
          </Told>
          {!report.written && report.differences.length > 0 && document !== null && (
            <Box>
              <Button
                size="small"
                variant="contained"
                disabled={sending.busy}
                onClick={() => sending.run({ body: document, write: true })}
              >
                {wording.writeThem}
              </Button>
            </Box>
          )}
          <Differences report={report} />
        </>
      )}
    </Panel>
  );
}

function Differences({ report }: { report: DocumentReport }): ReactElement {
  return (
    <Box component="ul" aria-label={wording.differences} sx={{ typography: 'caption', m: 0, pl: 2 }}>
      {report.differences.slice(0, MOST_SHOWN).map((one) => (
        <li key={`${one.kind} ${one.uid}`}>
          {one.kind} {one.name}: {one.action}
          {one.changes.map((field) => (
            <Box key={field.name} sx={{ color: 'text.secondary', wordBreak: 'break-word' }}>
              {field.name}: <s>{shown(field.before)}</s> → {shown(field.after)}
            </Box>
          ))}
        </li>
      ))}
    </Box>
  );
}

function shown(value: unknown): string {
  const text = typeof value === 'string' ? value : JSON.stringify(value);
  return text.length > 120 ? `${text.slice(0, 120)} …` : text;
}
