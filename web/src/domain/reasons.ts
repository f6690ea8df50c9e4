/** Why there is no data, in words. */
const REASONS: Record<string, string> = {
  not_yet_recorded: 'Not recorded yet',
  recorder_stopped: 'The recorder was stopped',
  recorder_down: 'The recorder was down',
  source_down: 'The source was down',
  queue_overflow: 'Samples were dropped',
  spool_overflow: 'Samples were dropped: the spool was full',
  logger_stopped: 'The logger was stopped',
  logger_paused: 'The logger was paused',
  logger_failed: 'The logger failed',
  not_storable: 'The database did not take the samples',
  damaged: 'What was recorded cannot be read',
  logger_inhibited: 'The logger was inhibited',
  waiting_for_trigger: 'The logger was waiting for its trigger',
  not_recorded: 'Not recorded',
  clock_step: 'The clock was set',
  recorder_late: 'The recorder was held up',
  bad_values: 'Values were bad',
  not_yet_known: 'Nothing is known yet',
  removed_by_retention: 'Removed by retention',
  in_the_future: 'In the future',
};

export function reasonText(reason: string): string {
  return REASONS[reason] ?? reason;
}
