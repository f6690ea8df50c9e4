/** Tags from a file: what it would do is read first, then all is written, or nothing. */
import { Box, Button, Typography } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRef, useState, type ReactElement } from 'react';
import { Link } from 'react-router';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { Choice, DataTable, Details, TextLine, Told, Offered } from '../../../ui';
import { Page } from '../common/Page';
import {
  importTags,
  readColumns,
  type ImportColumns,
  type ImportMapping,
  type ImportReport,
} from '../../../entities/tags';
import { ImportMapping as MappingFields } from './ImportMapping';
import { SETUP } from '../../../entities/setup';

const ON_CLASH = [
  { value: 'keep', label: wording.keepTheTagThatIsThere },
  { value: 'replace', label: wording.replaceItsFormByTheLine },
  { value: 'prefix', label: wording.addTheLineUnderAnotherName },
];

interface Wish {
  file: File | null;
  onClash: string;
  prefix: string;
  write: boolean;
  mapping: ImportMapping | null;
}

const REST_MS = 400;

export function ImportPage(): ReactElement {
  const queries = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [onClash, setOnClash] = useState('keep');
  const [prefix, setPrefix] = useState(`${wording.copyOf} `);
  const sending = useMutation({
    mutationFn: send,
    onSuccess: async (report) => {
      if (report.written) await queries.invalidateQueries({ queryKey: [SETUP] });
    },
  });
  const [columns, setColumns] = useState<ImportColumns | null>(null);
  const [mapping, setMapping] = useState<ImportMapping | null>(null);
  const reading = useMutation({
    mutationFn: readColumns,
    onSuccess: (found, of) => {
      const its = found.is_ours ? null : found.mapping;
      setColumns(found);
      setMapping(its);
      look({ file: of, mapping: its });
    },
  });
  const look = (next: Partial<Wish>): void => {
    const wish: Wish = { file, onClash, prefix, mapping, write: false, ...next };
    if (wish.file !== null) sending.mutate(wish);
  };
  // A word that is typed is not a file sent for each letter.
  const timer = useRef(0);
  const [isWaiting, setWaiting] = useState(false);
  const lookSoon = (next: ImportMapping): void => {
    setWaiting(true);
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(() => {
      setWaiting(false);
      look({ mapping: next });
    }, REST_MS);
  };
  const report = sending.data;
  return (
    <Page
      title={wording.importTags}
      note={wording.csvOrXlsxAsTheExport}
      actions={
        <Button size="small" component={Link} to="/setup/tags">
          {wording.backToTheTags}
        </Button>
      }
    >
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'flex-end', flexWrap: 'wrap', maxWidth: 900, mb: 2 }}>
        <Button variant="outlined" size="small" component="label">
          {file === null ? common.chooseAFile : file.name}
          <input
            hidden
            type="file"
            aria-label={wording.fileWithTags}
            accept=".csv,.xlsx"
            onChange={(event) => {
              const chosen = event.target.files?.[0] ?? null;
              // A file that was corrected and has the same name is a choice, too.
              event.target.value = '';
              if (chosen === null) return;
              setFile(chosen);
              setColumns(null);
              sending.reset();
              reading.mutate(chosen);
            }}
          />
        </Button>
        <Box sx={{ width: 280 }}>
          <Choice
            label={wording.whenANameIsTaken}
            value={onClash}
            options={ON_CLASH}
            onChange={(value) => {
              setOnClash(value);
              look({ onClash: value });
            }}
          />
        </Box>
        {onClash === 'prefix' && (
          <Box sx={{ width: 160 }}>
            <TextLine
              label={wording.putBeforeTheName}
              value={prefix}
              onChange={(value) => {
                setPrefix(value);
                look({ prefix: value });
              }}
            />
          </Box>
        )}
        <Offered>
          {' '}
          <Button
            variant="contained"
            size="small"
            disabled={!isUsable(report) || sending.isPending || isWaiting}
            onClick={() => look({ write: true })}
          >
            {wording.importLabel}
          </Button>
        </Offered>
        {sending.isPending && <Typography variant="body2">{wording.readingTheFile}</Typography>}
      </Box>
      {reading.error !== null && <Told kind="error">{errorText(reading.error)}</Told>}
      {columns !== null && mapping !== null && (
        <MappingFields
          columns={columns}
          mapping={mapping}
          onMapping={(next) => {
            setMapping(next);
            lookSoon(next);
          }}
        />
      )}
      {sending.error !== null && <Told kind="error">{errorText(sending.error)}</Told>}
      {report !== undefined && <Report report={report} />}
    </Page>
  );
}

function isUsable(report: ImportReport | undefined): boolean {
  return (
    report !== undefined && !report.written && report.refused_count === 0 && report.added + report.changed > 0
  );
}

function send({ file, ...wish }: Wish): Promise<ImportReport> {
  return importTags(file, wish);
}

function Report({ report }: { report: ImportReport }): ReactElement {
  return (
    <Box sx={{ display: 'grid', gap: 2 }}>
      {report.written ? (
        <Told kind="good">
          {fill(wording.writtenAddedTagsAddedChangedChanged, {
            added: report.added,
            changed: report.changed,
          })}
        </Told>
      ) : (
        <Told kind={report.refused_count > 0 ? 'error' : 'plain'}>
          {report.refused_count > 0
            ? fill(wording.linesCannotBeUsed, { lines: report.refused_count })
            : wording.thisIsWhatTheFileWould}
        </Told>
      )}
      <Details
        rows={[
          [wording.added, report.added],
          [wording.changed, report.changed],
          [wording.unchanged, report.unchanged],
          [
            wording.nameTaken,
            fill(wording.clashesLinesKeptPassedOver, { clashes: report.clashes, kept: report.kept }),
          ],
          [wording.refused, report.refused_count],
        ]}
      />
      {report.refused.length > 0 && (
        <DataTable
          label={wording.refusedLines}
          columns={[
            { name: wording.line, of: (row) => row.line, width: 60 },
            { name: wording.field, of: (row) => row.field, width: 120 },
            { name: wording.whatIsWrong, of: (row) => row.problem },
            { name: wording.whatToDo, of: (row) => row.remedy },
          ]}
          rows={report.refused}
          keyOf={(row) => `${row.line} ${row.field}`}
          empty=""
        />
      )}
      {report.changes.length > 0 && (
        <DataTable
          label={common.changes}
          columns={[
            { name: common.tag, of: (row) => row.name },
            { name: wording.field, of: (row) => row.field, width: 120 },
            { name: wording.before, of: (row) => String(row.before) },
            { name: wording.after, of: (row) => String(row.after) },
          ]}
          rows={report.changes}
          keyOf={(row) => `${row.name} ${row.field}`}
          empty=""
        />
      )}
      {report.new_names.length > 0 && (
        <Typography variant="body2">
          {fill(wording.newValue, { value: report.new_names.slice(0, 40).join(', ') })}
        </Typography>
      )}
    </Box>
  );
}
