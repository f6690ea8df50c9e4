/** What the forms of sources and addresses offer, and what they begin with; the rules are the server's. */
import * as common from 'texts/common.json';
import * as wording from 'texts/setup.json';
import type { Address, Fields } from './protocols';

/** What a source says of security: policy and mode in one. */
export const SECURITIES = [
  { value: 'None/None', label: wording.noneAnybodyOnTheNetworkCan },
  { value: 'Basic256Sha256/Sign', label: wording.basic256Sha256Signed },
  { value: 'Basic256Sha256/SignAndEncrypt', label: wording.basic256Sha256SignedAndEncrypted },
  { value: 'Aes128Sha256RsaOaep/SignAndEncrypt', label: wording.aes128Sha256RsaOaepSignedAndEncrypted },
  { value: 'Aes256Sha256RsaPss/SignAndEncrypt', label: wording.aes256Sha256RsaPssSignedAndEncrypted },
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
  { value: 'sine', label: wording.sine },
  { value: 'ramp', label: wording.ramp },
  { value: 'square', label: wording.square },
  { value: 'steps', label: wording.steps },
  { value: 'random_walk', label: wording.randomWalk },
  { value: 'noise', label: wording.noise },
] as const;

/** Names of the values of system items that are states. */
export const SYSTEM_STATES: Record<string, Record<string, string>> = {
  source_state: names(wording.connecting, common.up, common.down, wording.disabled),
  logger_state: names(common.recording, wording.stopped, wording.inhibited, wording.paused, common.waiting),
  logger_reason: names(
    wording.none,
    wording.person,
    wording.inhibitTag,
    wording.schedule,
    common.tag,
    wording.noTags,
    wording.plantNotTold,
    wording.interval,
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

/** How values are read, apart from where: the table, the type and the scaling of a tag are likely those of the next. */
const READ_ALIKE: Readonly<Record<string, readonly string[]>> = {
  modbus_tcp: ['table', 'data_type', 'low_word_first', 'scale', 'offset'],
  opc_ua: ['deadband', 'scale', 'offset'],
};

/** A new address, read as another one of its source is. */
export function addressLike(protocol: string, other: Address | null): Address {
  const alike = READ_ALIKE[protocol] ?? [];
  const kept = Object.entries(other ?? {}).filter(([name]) => alike.includes(name));
  return { ...firstAddress(protocol), ...Object.fromEntries(kept) };
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
