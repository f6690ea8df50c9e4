/** Tags from a file: what it would do is read first, then all is written, or nothing. */
import { Box, Button, Typography } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { Link } from 'react-router';
import { errorText } from '../../../platform/errors';
import { Choice, DataTable, Details, TextLine, Told } from '../../../ui';
import { Page } from '../common/Page';
import { importTags, type ImportReport } from '../../../entities/tags';
import { SETUP } from '../../../entities/setup';

const ON_CLASH = [
  { value: 'keep', label: 'keep the tag that is there' },
  { value: 'replace', label: 'replace its form by the line' },
  { value: 'prefix', label: 'add the line under another name' },
];

interface Wish {
  file: File | null;
  onClash: string;
  prefix: string;
  write: boolean;
}

export function ImportPage(): ReactElement {
  const queries = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [onClash, setOnClash] = useState('keep');
  const [prefix, setPrefix] = useState('Copy of ');
  const sending = useMutation({
    mutationFn: send,
    onSuccess: async (report) => {
      if (report.written) await queries.invalidateQueries({ queryKey: [SETUP] });
    },
  });
  const look = (next: Partial<Wish>): void => {
    const wish: Wish = { file, onClash, prefix, write: false, ...next };
    if (wish.file !== null) sending.mutate(wish);
  };
  const report = sending.data;
  return (
    <Page
      title="Import tags"
      note="CSV or XLSX, as the export writes it. Lines are matched by uid, then by name."
      actions={
        <Button size="small" component={Link} to="/setup/tags">
          Back to the tags
        </Button>
      }
    >
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'flex-end', flexWrap: 'wrap', maxWidth: 900, mb: 2 }}>
        <Button variant="outlined" size="small" component="label">
          {file === null ? 'Choose a file' : file.name}
          <input
            hidden
            type="file"
            aria-label="File with tags"
            accept=".csv,.xlsx"
            onChange={(event) => {
              const chosen = event.target.files?.[0] ?? null;
              // A file that was corrected and has the same name is a choice, too.
              event.target.value = '';
              if (chosen === null) return;
              setFile(chosen);
              look({ file: chosen });
            }}
          />
        </Button>
        <Box sx={{ width: 280 }}>
          <Choice
            label="When a name is taken"
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
              label="Put before the name"
              value={prefix}
              onChange={(value) => {
                setPrefix(value);
                look({ prefix: value });
              }}
            />
          </Box>
        )}
        <Button
          variant="contained"
          size="small"
          disabled={!isUsable(report) || sending.isPending}
          onClick={() => look({ write: true })}
        >
          Import
        </Button>
        {sending.isPending && <Typography variant="body2">Reading the file …</Typography>}
      </Box>
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
          Written: {report.added} tags added, {report.changed} changed.
        </Told>
      ) : (
        <Told kind={report.refused_count > 0 ? 'error' : 'plain'}>
          {report.refused_count > 0
            ? `${report.refused_count === 1 ? '1 line' : `${report.refused_count} lines`} cannot be used. Nothing is written until that is mended.`
            : 'This is what the file would do. Nothing is written yet.'}
        </Told>
      )}
      <Details
        rows={[
          ['Added', report.added],
          ['Changed', report.changed],
          ['Unchanged', report.unchanged],
          ['Name taken', `${report.clashes} lines, ${report.kept} passed over`],
          ['Refused', report.refused_count],
        ]}
      />
      {report.refused.length > 0 && (
        <DataTable
          label="Refused lines"
          columns={[
            { name: 'Line', of: (row) => row.line, width: 60 },
            { name: 'Field', of: (row) => row.field, width: 120 },
            { name: 'What is wrong', of: (row) => row.problem },
            { name: 'What to do', of: (row) => row.remedy },
          ]}
          rows={report.refused}
          keyOf={(row) => `${row.line} ${row.field}`}
          empty=""
        />
      )}
      {report.changes.length > 0 && (
        <DataTable
          label="Changes"
          columns={[
            { name: 'Tag', of: (row) => row.name },
            { name: 'Field', of: (row) => row.field, width: 120 },
            { name: 'Before', of: (row) => String(row.before) },
            { name: 'After', of: (row) => String(row.after) },
          ]}
          rows={report.changes}
          keyOf={(row) => `${row.name} ${row.field}`}
          empty=""
        />
      )}
      {report.new_names.length > 0 && (
        <Typography variant="body2">New: {report.new_names.slice(0, 40).join(', ')}</Typography>
      )}
    </Box>
  );
}
