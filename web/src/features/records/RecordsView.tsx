/** The table of a logger's records. */
import { FileDownloadOutlined } from '@mui/icons-material';
import { Box, Button, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/records.json';
import { fill } from '../../domain/fill';
import { Choice, TextLine, Told } from '../../ui';
import type { Span } from '../../domain/time';
import { errorText } from '../../platform/errors';
import { RecordLines } from './RecordLines';
import { exportPath } from './shown';
import type { RecordLine, RecordPageData, RecordsLook } from '../../entities/records';
import { savePath } from '../../platform/download';
import { served } from '../../platform/configuration';

interface RecordsViewProps {
  loggers: readonly { uid: string; name: string; records: number }[];
  known: boolean;
  logger: { uid: string; name: string; records: number } | null;
  page: RecordPageData | null;
  records: readonly RecordLine[];
  zone: string;
  search: string;
  onSearch: (text: string) => void;
  onChoose: (uid: string) => void;
  onMore: (() => void) | null;
  look: RecordsLook;
  onOrder: (order: RecordsLook['order']) => void;
  /** The stretch that is shown; null: all of history. */
  span: Span | null;
  /** Why it is not known where the window lies. */
  error: Error | null;
  /** All of history is shown, not a window of it. */
  isAll: boolean;
  onAll: () => void;
}

export function RecordsView(props: RecordsViewProps): ReactElement {
  const { loggers, known, logger, page, records, zone, search, onSearch, onChoose, onMore } = props;
  const columns = page?.columns ?? [];
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', height: { md: '100%' } }}>
      <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: 2, px: 2, py: 1, flexWrap: 'wrap' }}>
        <Typography component="h1" variant="h1">
          {common.records}
        </Typography>
        {logger !== null && (
          <>
            <Box sx={{ width: 240 }}>
              <Choice
                label={wording.ofTheLogger}
                value={logger.uid}
                options={loggers.map((one) => ({ value: one.uid, label: `${one.name} (${one.records})` }))}
                onChange={onChoose}
              />
            </Box>
            <Box sx={{ width: 220 }}>
              <TextLine label={wording.findInNumberTriggerAndValues} value={search} onChange={onSearch} />
            </Box>
            <Box sx={{ flex: 1 }} />
            {(['csv', 'xlsx'] as const).map((form) => (
              <Button
                key={form}
                size="small"
                startIcon={<FileDownloadOutlined />}
                onClick={() => savePath(served(exportPath(logger.uid, form, props, columns)))}
              >
                {form.toUpperCase()}
              </Button>
            ))}
          </>
        )}
      </Box>
      <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto', px: 2, pb: 2 }}>
        {known && logger === null && <Told>{wording.noLoggerTakesRecordsYetAdd}</Told>}
        {props.error !== null && <Told kind="error">{errorText(props.error)}</Told>}
        {logger !== null && page !== null && records.length === 0 && (
          <Nothing {...props} logger={logger} isFound={props.look.search !== ''} />
        )}
        {records.length > 0 && page !== null && logger !== null && (
          <RecordLines
            logger={logger.uid}
            records={records}
            look={props.look}
            onOrder={props.onOrder}
            columns={columns}
            figures={page.figures}
            zone={zone}
            isAll={props.isAll}
            isWhole={onMore === null}
          />
        )}
        {onMore !== null && (
          <Button size="small" onClick={onMore}>
            {props.look.order === null ? common.olderOnes : wording.more}
          </Button>
        )}
      </Box>
    </Box>
  );
}

/** Why there is no record to be seen, and the way to those there are. */
function Nothing({
  logger,
  isAll,
  onAll,
  isFound,
}: Pick<RecordsViewProps, 'isAll' | 'onAll'> & {
  logger: { name: string; records: number };
  /** A text is looked for. */
  isFound: boolean;
}): ReactElement {
  if (isFound)
    return <Told>{isAll ? wording.noRecordHoldsThisText : wording.noRecordInThisWindowHoldsThisText}</Told>;
  if (isAll || logger.records === 0)
    return <Told>{fill(wording.nameHasTakenNoRecordYet, { name: logger.name })}</Told>;
  return (
    <Told>
      {fill(wording.nameHasTakenNoRecordIn, { name: logger.name, records: logger.records })}{' '}
      <Button size="small" onClick={onAll}>
        {common.showAll}
      </Button>
    </Told>
  );
}
