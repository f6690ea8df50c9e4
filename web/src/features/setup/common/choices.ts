/** What the forms of sources and addresses offer, and what they begin with; the rules are the server's. */
import type { Address, Fields } from './protocols';

/** What a source says of security: policy and mode in one. */
export const SECURITIES = [
  { value: 'None/None', label: 'None: anybody on the network can read and write' },
  { value: 'Basic256Sha256/Sign', label: 'Basic256Sha256, signed' },
  { value: 'Basic256Sha256/SignAndEncrypt', label: 'Basic256Sha256, signed and encrypted' },
  { value: 'Aes128Sha256RsaOaep/SignAndEncrypt', label: 'Aes128Sha256RsaOaep, signed and encrypted' },
  { value: 'Aes256Sha256RsaPss/SignAndEncrypt', label: 'Aes256Sha256RsaPss, signed and encrypted' },
] as const;

export const DATA_TYPES = [
  'float32',
  'int16',
  'uint16',
  'int32',
  'uint32',
  'float64',
  'int64',
  'uint64',
  'bool',
].map((value) => ({ value, label: value }));

export const SHAPES = [
  { value: 'sine', label: 'Sine' },
  { value: 'ramp', label: 'Ramp' },
  { value: 'square', label: 'Square' },
  { value: 'steps', label: 'Steps' },
  { value: 'random_walk', label: 'Random walk' },
  { value: 'noise', label: 'Noise' },
] as const;

/** Names of the values of system items that are states. */
export const SYSTEM_STATES: Record<string, Record<string, string>> = {
  source_state: names('Connecting', 'Up', 'Down', 'Disabled'),
  logger_state: names('Recording', 'Stopped', 'Inhibited', 'Paused', 'Waiting'),
  logger_reason: names(
    'None',
    'Person',
    'Inhibit tag',
    'Schedule',
    'Tag',
    'No tags',
    'Plant not told',
    'Interval',
  ),
};

function names(...all: string[]): Record<string, string> {
  return Object.fromEntries(all.map((name, i) => [String(i), name]));
}

/** With another value of a field. The server says what a field can hold. */
export function withField<T extends object>(whole: T, name: string, value: unknown): T {
  return { ...whole, [name]: value };
}

/** The place a new tag of a source begins with. */
export function firstAddress(protocol: string): Address {
  if (protocol === 'internal') return { initial: 0, keep: true };
  if (protocol === 'calculated') return { kind: 'formula', formula: '', inputs: {} };
  if (protocol === 'system') return { item: 'processor' };
  if (protocol === 'opc_ua') return { node: 'ns=2;s=' };
  return protocol === 'generator'
    ? { shape: 'sine', low: 0, high: 100, period_s: 60, noise: 0.5, seed: 0 }
    : { table: 'input_register', address: 0, data_type: 'float32' };
}

export function firstConfig(protocol: string): Fields {
  if (protocol === 'opc_ua') {
    return {
      endpoint: 'opc.tcp://127.0.0.1:4840',
      security: 'None',
      mode: 'None',
      trusted: '',
      user: '',
      timeout_s: 4,
      history: true,
    };
  }
  return protocol !== 'modbus_tcp' ? {} : { host: '127.0.0.1', port: 502, unit: 1, timeout_s: 1 };
}
