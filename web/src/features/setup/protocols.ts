/** What the forms ask for by protocol; the rules are the server's. */
export const PROTOCOLS = [
  { value: 'modbus_tcp', label: 'Modbus TCP' },
  { value: 'opc_ua', label: 'OPC UA' },
  { value: 'generator', label: 'Signal generator' },
  { value: 'internal', label: 'Internal values' },
] as const;

/** What a source says of security: policy and mode in one. */
export const SECURITIES = [
  { value: 'None/None', label: 'None: anybody on the network can read and write' },
  { value: 'Basic256Sha256/Sign', label: 'Basic256Sha256, signed' },
  { value: 'Basic256Sha256/SignAndEncrypt', label: 'Basic256Sha256, signed and encrypted' },
  { value: 'Aes128Sha256RsaOaep/SignAndEncrypt', label: 'Aes128Sha256RsaOaep, signed and encrypted' },
  { value: 'Aes256Sha256RsaPss/SignAndEncrypt', label: 'Aes256Sha256RsaPss, signed and encrypted' },
] as const;

export const TABLES = [
  { value: 'input_register', label: 'Input register' },
  { value: 'holding_register', label: 'Holding register' },
  { value: 'discrete_input', label: 'Discrete input' },
  { value: 'coil', label: 'Coil' },
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

export const VALUE_TYPES = [
  { value: 'float', label: 'Float' },
  { value: 'integer', label: 'Integer' },
  { value: 'boolean', label: 'Boolean' },
  { value: 'state', label: 'State list' },
  { value: 'text', label: 'Text' },
] as const;

export type Address = Record<string, unknown>;

/** The place a new tag of a source begins with. */
export function firstAddress(protocol: string): Address {
  if (protocol === 'internal') return { initial: 0, keep: true };
  if (protocol === 'opc_ua') return { node: 'ns=2;s=' };
  return protocol === 'generator'
    ? { shape: 'sine', low: 0, high: 100, period_s: 60, noise: 0.5, seed: 0 }
    : { table: 'input_register', address: 0, data_type: 'float32' };
}

export function firstConfig(protocol: string): Address {
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

export function protocolName(protocol: string): string {
  return PROTOCOLS.find((one) => one.value === protocol)?.label ?? protocol;
}

/** A place in one line: input register 100, float32. */
export function placeText(address: Address): string {
  if (typeof address['shape'] === 'string') {
    return `${address['shape'].replace('_', ' ')}, ${numberText(address['period_s'])} s`;
  }
  if (typeof address['node'] === 'string') return address['node'];
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
export function whereText(protocol: string, config: Address): string {
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

function numberText(value: unknown): string {
  return typeof value === 'number' ? String(value) : '–';
}
