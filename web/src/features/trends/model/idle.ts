/** Why nothing records a tag at present that loggers should record. */
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import type { components } from '../../../platform/schema';
import type { Trace } from './model';

type Recorder = Pick<components['schemas']['RecorderOut'], 'state' | 'loggers'>;

const WHY: Readonly<Record<string, string>> = {
  stopped: wording.loggerStopped,
  paused: wording.loggerPaused,
  inhibited: wording.loggerInhibited,
  failed: wording.loggerFailed,
  waiting: wording.loggerWaiting,
  disabled: wording.loggerDisabled,
};

/** One of its loggers that does not record, where none does; '' where one does, or nothing is known of them. */
export function idleText({ tag, origin }: Pick<Trace, 'tag' | 'origin'>, recorder: Recorder): string {
  if (origin !== 'tag' || tag.recorded.length === 0) return '';
  if (recorder.state === 'stopped' || recorder.state === 'lost') return wording.recorderDoesNotRun;
  const mine = recorder.loggers.filter(({ name }) => tag.recorded.some(({ logger }) => logger === name));
  const isIdle = mine.length > 0 && mine.every(({ state }) => state in WHY);
  const [first] = mine;
  return isIdle && first !== undefined ? fill(WHY[first.state] ?? '', { name: first.name }) : '';
}
