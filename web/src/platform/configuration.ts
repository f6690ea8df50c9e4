/** What the server tells a page with the page itself: under which path and name it is served, who looks at it, and how
 * often what had changed at that moment. */
export interface Person {
  name: string;
  permissions: readonly string[];
  /** Null: a guest, who has none. */
  account: string | null;
  /** Their password was given by somebody else: it has to be changed before anything else. */
  must_change: boolean;
  /** Nobody is signed in, and guests may look. */
  is_guest: boolean;
}

export interface Configuration {
  /** The path that stands before all addresses, as /cronaca; empty: none. */
  base: string;
  brand: { name: string; accent_day: string; accent_night: string };
  /** Null: nobody is signed in, or the page was not sent by the server (a development server). */
  person: Person | null;
  /** How often each kind of thing had changed when the page was sent. */
  counts: Readonly<Record<string, string>>;
}

const DEFAULTS: Configuration = {
  base: '',
  brand: { name: 'Cronaca', accent_day: '', accent_night: '' },
  person: null,
  counts: {},
};

export function readConfiguration(page: Document | undefined): Configuration {
  const text = page?.querySelector<HTMLMetaElement>('meta[name=configuration]')?.content ?? '{}';
  return { ...DEFAULTS, ...(JSON.parse(text) as Partial<Configuration>) };
}

export const configuration = readConfiguration(typeof document === 'undefined' ? undefined : document);

/** The address of something on the server, by its path there. */
export function served(path: string): string {
  return configuration.base + path;
}
