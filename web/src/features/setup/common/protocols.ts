/** Protocols, addresses and kinds of values in words. */
import type { SourceIn } from '../../../entities/sources';
import type { TagIn } from '../../../entities/tags';

export const PROTOCOLS = [
  { value: 'modbus_tcp', label: 'Modbus TCP' },
  { value: 'opc_ua', label: 'OPC UA' },
  { value: 'generator', label: 'Signal generator' },
  { value: 'internal', label: 'Internal values' },
  { value: 'calculated', label: 'Calculated values' },
  { value: 'system', label: 'The recorder itself' },
] as const;

export const TABLES = [
  { value: 'input_register', label: 'Input register' },
  { value: 'holding_register', label: 'Holding register' },
  { value: 'discrete_input', label: 'Discrete input' },
  { value: 'coil', label: 'Coil' },
] as const;

/** How a value is calculated. */
export const CALCULATIONS = [
  { value: 'formula', label: 'Formula' },
  { value: 'counter', label: 'Counter of edges' },
  { value: 'reached', label: 'Whether a counter has reached its preset' },
  { value: 'hours', label: 'Running hours' },
  { value: 'total', label: 'Total of a rate' },
  { value: 'figure', label: 'Statistic over a window that moves on' },
] as const;

/** What the recorder tells of itself. */
export const SYSTEM_ITEMS = [
  { value: 'processor', label: 'Processor, %' },
  { value: 'memory', label: 'Memory, %' },
  { value: 'disk', label: 'Disk in use, %' },
  { value: 'disk_free', label: 'Disk free, GB' },
  { value: 'sample_rate', label: 'Samples kept a second' },
  { value: 'queued', label: 'Samples waiting' },
  { value: 'dropped', label: 'Samples dropped' },
  { value: 'late_scans', label: 'Late scans' },
  { value: 'commit_time', label: 'Time of the last commit, ms' },
  { value: 'source_state', label: 'State of a source' },
  { value: 'logger_state', label: 'State of a logger' },
  { value: 'logger_reason', label: "Reason of a logger's state" },
  { value: 'logger_rate', label: 'Samples a second of a logger' },
  { value: 'year', label: 'Year' },
  { value: 'month', label: 'Month' },
  { value: 'day', label: 'Day of the month' },
  { value: 'weekday', label: 'Day of the week, 1 Monday' },
  { value: 'hour', label: 'Hour' },
  { value: 'minute', label: 'Minute' },
  { value: 'second', label: 'Second' },
] as const;

export const VALUE_TYPES = [
  { value: 'float', label: 'Float' },
  { value: 'integer', label: 'Integer' },
  { value: 'boolean', label: 'Boolean' },
  { value: 'state', label: 'State list' },
  { value: 'text', label: 'Text' },
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
    const begins = typeof initial === 'number' ? `begins with ${initial}` : 'begins with no value';
    return `${begins}${address['keep'] === true ? ', kept' : ''}`;
  }
  const table = TABLES.find((one) => one.value === address['table'])?.label ?? text(address['table']);
  const kind = text(address['data_type']);
  return `${table} ${numberText(address['address'])}${kind === 'bool' ? '' : `, ${kind}`}`;
}

/** Where a source is found, in one line. */
export function whereText(protocol: string, config: Fields): string {
  if (protocol === 'opc_ua') return text(config['endpoint']).replace('opc.tcp://', '');
  if (protocol !== 'modbus_tcp') return 'built in';
  return `${text(config['host'])}:${numberText(config['port'])}, unit ${numberText(config['unit'])}`;
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
