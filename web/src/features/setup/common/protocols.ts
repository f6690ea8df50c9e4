/** Protocols, addresses and kinds of values in words. */
import * as common from 'texts/common.json';
import * as wording from 'texts/setup.json';
import { fill } from '../../../domain/fill';
import type { SourceIn } from '../../../entities/sources';
import type { TagIn } from '../../../entities/tags';

export const PROTOCOLS = [
  { value: 'modbus_tcp', label: wording.modbusTcp },
  { value: 'opc_ua', label: wording.opcUa },
  { value: 'generator', label: wording.signalGenerator },
  { value: 'internal', label: wording.internalValues },
  { value: 'calculated', label: wording.calculatedValues },
  { value: 'system', label: wording.theRecorderItself },
] as const;

export const TABLES = [
  { value: 'input_register', label: wording.inputRegister },
  { value: 'holding_register', label: wording.holdingRegister },
  { value: 'discrete_input', label: wording.discreteInput },
  { value: 'coil', label: wording.coil },
] as const;

/** How a value is calculated. */
export const CALCULATIONS = [
  { value: 'formula', label: common.formula },
  { value: 'counter', label: wording.counterOfEdges },
  { value: 'reached', label: wording.whetherACounterHasReachedIts },
  { value: 'hours', label: wording.runningHours },
  { value: 'total', label: wording.totalOfARate },
  { value: 'figure', label: wording.statisticOverAWindowThatMoves },
] as const;

/** What the recorder tells of itself. */
export const SYSTEM_ITEMS = [
  { value: 'processor', label: wording.processorPercent },
  { value: 'memory', label: wording.memoryPercent },
  { value: 'disk', label: wording.diskInUsePercent },
  { value: 'disk_free', label: wording.diskFreeGb },
  { value: 'sample_rate', label: wording.samplesKeptASecond },
  { value: 'queued', label: wording.samplesWaiting },
  { value: 'dropped', label: wording.samplesDropped },
  { value: 'late_scans', label: common.lateScans },
  { value: 'commit_time', label: wording.timeOfTheLastCommitMs },
  { value: 'source_state', label: wording.stateOfASource },
  { value: 'logger_state', label: wording.stateOfALogger },
  { value: 'logger_reason', label: wording.reasonOfALoggersState },
  { value: 'logger_rate', label: wording.samplesASecondOfALogger },
  { value: 'year', label: wording.year },
  { value: 'month', label: wording.month },
  { value: 'day', label: wording.dayOfTheMonth },
  { value: 'weekday', label: wording.dayOfTheWeek1Monday },
  { value: 'hour', label: wording.hour },
  { value: 'minute', label: wording.minute },
  { value: 'second', label: wording.second },
] as const;

export const VALUE_TYPES = [
  { value: 'float', label: wording.float },
  { value: 'integer', label: wording.integer },
  { value: 'boolean', label: wording.boolean },
  { value: 'state', label: wording.stateList },
  { value: 'text', label: common.text },
] as const;

/** What a form shows of an address or of settings: by the names of the fields. */
export type Fields = Readonly<Record<string, unknown>>;
export type Address = TagIn['address'];
export type Protocol = SourceIn['protocol'];

export function protocolName(protocol: string): string {
  return PROTOCOLS.find((one) => one.value === protocol)?.label ?? protocol;
}

/** A place in one line: input register 100, float32. */
export function placeText(address: Fields): string {
  if (typeof address['shape'] === 'string') {
    return `${address['shape'].replace('_', ' ')}, ${numberText(address['period_s'])} s`;
  }
  if (typeof address['node'] === 'string') return address['node'];
  if (typeof address['item'] === 'string') {
    return SYSTEM_ITEMS.find((one) => one.value === address['item'])?.label ?? address['item'];
  }
  if ('inputs' in address) {
    const kind = text(address['kind']) || 'formula';
    const label = CALCULATIONS.find((one) => one.value === kind)?.label ?? kind;
    return kind === 'formula' ? text(address['formula']) : label;
  }
  if ('keep' in address) {
    const initial = address['initial'];
    const begins =
      typeof initial === 'number' ? fill(wording.beginsWithInitial, { initial }) : wording.beginsWithNoValue;
    return `${begins}${address['keep'] === true ? wording.kept : ''}`;
  }
  const table = TABLES.find((one) => one.value === address['table'])?.label ?? text(address['table']);
  const kind = text(address['data_type']);
  return `${table} ${numberText(address['address'])}${kind === 'bool' ? '' : `, ${kind}`}`;
}

/** Where a source is found, in one line. */
export function whereText(protocol: string, config: Fields): string {
  if (protocol === 'opc_ua') return text(config['endpoint']).replace('opc.tcp://', '');
  if (protocol !== 'modbus_tcp') return wording.builtIn;
  return fill(wording.hostPortAndUnit, {
    text: text(config['host']),
    number: numberText(config['port']),
    number2: numberText(config['unit']),
  });
}

/** A certificate's SHA-256 in groups that can be compared by eye. */
export function printText(hex: string): string {
  return (hex.toUpperCase().match(/.{1,8}/g) ?? []).join(' ');
}

export function text(value: unknown): string {
  return typeof value === 'string' ? value : '';
}

export function numberOf(value: unknown, none: number): number {
  return typeof value === 'number' ? value : none;
}

/** What a field of numbers shows: the number, or what was typed instead of one. */
export function typedOf<T>(value: unknown, none: T): number | string | T {
  return typeof value === 'number' || typeof value === 'string' ? value : none;
}

function numberText(value: unknown): string {
  return typeof value === 'number' ? String(value) : '–';
}
