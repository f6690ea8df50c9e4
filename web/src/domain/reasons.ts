import * as wording from 'texts/domain.json';

/** Why there is no data, in words. */
const REASONS: Record<string, string> = {
  not_yet_recorded: wording.notRecordedYet,
  recorder_stopped: wording.theRecorderWasStopped,
  recorder_down: wording.theRecorderWasDown,
  source_down: wording.theSourceWasDown,
  queue_overflow: wording.samplesWereDropped,
  spool_overflow: wording.samplesWereDroppedTheSpoolWas,
  logger_stopped: wording.theLoggerWasStopped,
  logger_paused: wording.theLoggerWasPaused,
  logger_failed: wording.theLoggerFailed,
  not_storable: wording.theDatabaseDidNotTakeThe,
  damaged: wording.whatWasRecordedCannotBeRead,
  logger_inhibited: wording.theLoggerWasInhibited,
  waiting_for_trigger: wording.theLoggerWasWaitingForIts,
  not_recorded: wording.notRecorded,
  clock_step: wording.theClockWasSet,
  recorder_late: wording.theRecorderWasHeldUp,
  bad_values: wording.valuesWereBad,
  not_yet_known: wording.nothingIsKnownYet,
  removed_by_retention: wording.removedByRetention,
  in_the_future: wording.inTheFuture,
};

export function reasonText(reason: string): string {
  return REASONS[reason] ?? reason;
}
