// @vitest-environment jsdom
import { act, useState, type ReactElement } from 'react';
import { createRoot, type Root } from 'react-dom/client';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { DurationLine, FormActions, NumberLine, OptionalNumberLine, Panel, TextLine } from '.';

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

interface Form {
  port: number;
  preset: number | null;
  everyUs: number;
  name: string;
}

const saved = vi.fn<(form: Form) => void>();
let root: Root;

function Form(): ReactElement {
  const [form, setForm] = useState<Form>({ port: 502, preset: null, everyUs: 1_000_000, name: 'Line 1' });
  return (
    <Panel title="Source" onClose={() => undefined} onSubmit={() => saved(form)}>
      <TextLine label="Name" value={form.name} onChange={(name) => setForm({ ...form, name })} />
      <NumberLine label="Port" value={form.port} onChange={(port) => setForm({ ...form, port })} />
      <OptionalNumberLine
        label="Preset"
        value={form.preset}
        onChange={(preset) => setForm({ ...form, preset })}
      />
      <DurationLine
        label="Every"
        value={form.everyUs}
        onChange={(everyUs) => setForm({ ...form, everyUs })}
      />
      <FormActions save="Save" busy={false} />
    </Panel>
  );
}

function field(label: string): HTMLInputElement {
  const found = [...document.querySelectorAll('label')].find((one) => one.textContent === label);
  return document.getElementById(found?.htmlFor ?? '') as HTMLInputElement;
}

/** As a person types: letter by letter, and what the field shows is what the next letter is added to. */
function type(label: string, text: string): void {
  const input = field(label);
  const native = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value');
  const put = (value: string): void =>
    act(() => {
      native?.set?.call(input, value);
      input.dispatchEvent(new Event('input', { bubbles: true }));
    });
  put('');
  for (const letter of text) put(input.value + letter);
}

function save(): void {
  act(() => document.querySelector<HTMLButtonElement>('button[type=submit]')?.click());
}

beforeEach(() => {
  saved.mockReset();
  document.body.innerHTML = '<div id="root"></div>';
  root = createRoot(document.getElementById('root') as HTMLElement);
  act(() => root.render(<Form />));
});
afterEach(() => act(() => root.unmount()));

describe('a form', () => {
  it.each([
    ['Port', '5O3', '502.5', { port: 502.5 }],
    ['Preset', '1.5x', '1.5', { preset: 1.5 }],
    ['Every', 'soon', '10 s', { everyUs: 10_000_000 }],
  ])('with something in %s that cannot be used is not saved, and says where', (label, wrong, right, form) => {
    type(label, wrong);
    save();
    expect(saved).not.toHaveBeenCalled();
    expect(document.activeElement).toBe(field(label));
    expect(field(label).value).toBe(wrong);
    expect(field(label).getAttribute('aria-invalid')).toBe('true');
    type(label, right);
    save();
    expect(saved).toHaveBeenCalledExactlyOnceWith(expect.objectContaining(form));
  });

  it('keeps what is typed letter by letter: 1.5 is 1.5', () => {
    type('Preset', '1.5');
    expect(field('Preset').value).toBe('1.5');
    type('Port', '0.05');
    expect(field('Port').value).toBe('0.05');
    save();
    expect(saved).toHaveBeenCalledExactlyOnceWith(expect.objectContaining({ preset: 1.5, port: 0.05 }));
  });

  it('takes an emptied number that may be none for none, and one that may not for a mistake', () => {
    type('Preset', '7');
    type('Preset', '');
    save();
    expect(saved).toHaveBeenCalledExactlyOnceWith(expect.objectContaining({ preset: null }));
    type('Port', '');
    save();
    expect(saved).toHaveBeenCalledOnce();
    expect(document.activeElement).toBe(field('Port'));
  });
});
