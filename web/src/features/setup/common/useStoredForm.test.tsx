// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, type ReactElement } from 'react';
import { createRoot, type Root } from 'react-dom/client';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { ApiError } from '../../../platform/errors';
import { NumberLine } from '../../../ui';
import { fieldsOf, shapes } from '../../../ui/form';
import { StoredPanel } from './StoredForm';
import { useStoredForm } from './useStoredForm';
import { done, field, type } from '../../../ui/form/testSupport';

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

interface Values {
  name: string;
  port: number;
  preset: number | null;
  every_us: number;
  rule: { width: number };
}
interface Version extends Values {
  revision: number;
}

const Fields = fieldsOf<Values>();
const SHAPE = shapes.shape({
  port: shapes.number,
  preset: shapes.nullable(shapes.number),
  every_us: shapes.duration,
  rule: shapes.shape({ width: shapes.number }),
});
const ALSO = { deadband: 'rule.width' };
const FIRST: Version = {
  revision: 1,
  name: 'Press',
  port: 502,
  preset: null,
  every_us: 1_000_000,
  rule: { width: 0 },
};

const save = vi.fn<(values: Values, base: Version | null) => Promise<Version>>();
let root: Root;

function valuesOf(version: Version | null): Values {
  const { name, port, preset, every_us, rule } = version ?? FIRST;
  return { name, port, preset, every_us, rule };
}

function Form({ stored }: { stored: Version }): ReactElement {
  const form = useStoredForm({
    stored,
    valuesOf,
    shape: SHAPE,
    save,
    versionOf: (answer) => answer,
    also: ALSO,
  });
  return (
    <StoredPanel title="Source" stored={form} save="Save" said="Saved." onClose={() => undefined}>
      <Fields.Text name="name" label="Name" />
      <Fields.Number name="port" label="Port" />
      <Fields.OptionalNumber name="preset" label="Preset" />
      <Fields.Duration name="every_us" label="Every" />
      <Fields.Part<Values['rule']> name="rule">
        {({ value, onChange }) => (
          <NumberLine
            label="Deadband"
            value={value.width}
            onChange={(width) => onChange({ width })}
            onMistyped={(width) => onChange({ width: width as unknown as number })}
          />
        )}
      </Fields.Part>
    </StoredPanel>
  );
}

async function show(stored: Version): Promise<void> {
  await done(() =>
    root.render(
      <QueryClientProvider client={queries}>
        <Form stored={stored} />
      </QueryClientProvider>,
    ),
  );
}

async function press(name: string): Promise<void> {
  const button = [...document.querySelectorAll('button')].find(
    (one) => (one.getAttribute('aria-label') ?? one.textContent) === name,
  );
  await done(() => button?.click());
}

const said = (): string => document.body.textContent;
let queries: QueryClient;

beforeEach(async () => {
  save
    .mockReset()
    .mockImplementation((values, base) =>
      Promise.resolve({ ...values, revision: (base?.revision ?? 0) + 1 }),
    );
  queries = new QueryClient();
  root = createRoot(document.body.appendChild(document.createElement('div')));
  await show(FIRST);
});
afterEach(() => {
  act(() => root.unmount());
  document.body.replaceChildren();
});

describe('a form that is saved', () => {
  it.each([
    ['Port', '5O3', '503', { port: 503 }],
    ['Preset', '1.5x', '1.5', { preset: 1.5 }],
    ['Every', 'soon', '10 s', { every_us: 10_000_000 }],
    ['Deadband', 'a bit', '0.5', { rule: { width: 0.5 } }],
  ])(
    'with something in %s that cannot be used is not sent, and the focus is there',
    async (label, wrong, right, sent) => {
      await type(label, wrong);
      await press('Save');
      expect(save).not.toHaveBeenCalled();
      expect(document.activeElement).toBe(field(label));
      expect(field(label).value).toBe(wrong);
      await type(label, right);
      await press('Save');
      expect(save).toHaveBeenCalledExactlyOnceWith(expect.objectContaining(sent), FIRST);
      expect(said()).toContain('Saved.');
    },
  );

  it('says what the server refuses at its field, which has the focus; the rest below', async () => {
    save.mockRejectedValueOnce(
      new ApiError(422, 'Unusable', 'Two things are wrong.', [
        { field: 'source.port', problem: 'the port is taken', remedy: 'Choose another one.' },
        { field: 'rule.deadband', problem: 'it is below 0', remedy: 'Write 0 or more.' },
      ]),
    );
    await press('Save');
    expect(said()).toContain('The port is taken. Choose another one.');
    expect(said()).not.toContain('Two things are wrong.');
    expect(document.activeElement).toBe(field('Port'));
    save.mockRejectedValueOnce(
      new ApiError(422, 'Unusable', 'It has no archive.', [
        { field: 'archive', problem: 'it has none', remedy: 'Choose one.' },
      ]),
    );
    await type('Port', '503');
    expect(said()).not.toContain('The port is taken.');
    await press('Save');
    expect(said()).toContain('It has no archive.');
  });

  it('keeps what was typed when somebody else saves, and shows both where both changed the same', async () => {
    await type('Name', 'Press 2');
    await type('Port', '503');
    await show({ ...FIRST, revision: 2, name: 'Head', every_us: 2_000_000 });
    expect(['Name', 'Port', 'Every'].map((label) => field(label).value)).toEqual(['Press 2', '503', '2 s']);
    expect(said()).toContain('Someone else has saved other values');
    await press('Take their name');
    expect(field('Name').value).toBe('Head');
    await press('Save');
    expect(save).toHaveBeenCalledExactlyOnceWith(
      expect.objectContaining({ name: 'Head', port: 503, every_us: 2_000_000 }),
      expect.objectContaining({ revision: 2 }),
    );
  });

  it('keeps what is typed while it is being saved', async () => {
    let answer: (version: Version) => void = () => undefined;
    save.mockReturnValueOnce(new Promise((resolve) => (answer = resolve)));
    await type('Name', 'Press 2');
    await press('Save');
    await type('Port', '504');
    await done(() => answer({ ...FIRST, revision: 2, name: 'Press 2' }));
    expect([field('Name').value, field('Port').value]).toEqual(['Press 2', '504']);
    await press('Save');
    expect(save.mock.lastCall?.[1]?.revision).toBe(2);
    expect(save.mock.lastCall?.[0]).toMatchObject({ name: 'Press 2', port: 504 });
  });
});
