/** A form that is saved on the server, in a panel beside its list; and what stands at the end of each. */
import type { ReactElement, ReactNode } from 'react';
import type { FieldValues } from 'react-hook-form';
import { FormActions, Panel, Told } from '../../../ui';
import { FormFields } from '../../../ui/form';
import { Elsewhere } from '../tags/Elsewhere';
import type { StoredForm } from './useStoredForm';

interface StoredEndProps<B, F extends FieldValues> {
  stored: StoredForm<B, F>;
  save: string;
  /** What is said after saving; null: something else shows it. */
  said: string | null;
  /** What else can be done. */
  children?: ReactNode;
}

/** What is wrong with the whole, what others have saved meanwhile, and the button. */
export function StoredEnd<B, F extends FieldValues>({
  stored,
  save,
  said,
  children,
}: StoredEndProps<B, F>): ReactElement {
  return (
    <>
      {stored.general !== null && <Told kind="error">{stored.general}</Told>}
      <Elsewhere clashes={stored.clashes} refused={stored.refused} onTake={stored.onTake} />
      {stored.done && said !== null && <Told kind="good">{said}</Told>}
      <FormActions save={save} busy={stored.busy}>
        {children}
      </FormActions>
    </>
  );
}

interface StoredPanelProps<B, F extends FieldValues> extends StoredEndProps<B, F> {
  title: string;
  onClose: () => void;
  actions?: ReactNode;
  /** What follows the button. */
  below?: ReactNode;
}

export function StoredPanel<B, F extends FieldValues>(props: StoredPanelProps<B, F>): ReactElement {
  const { stored, title, onClose, actions, below, children, save, said } = props;
  return (
    <FormFields of={stored}>
      <Panel title={title} onClose={onClose} onSubmit={stored.onSubmit}>
        {children}
        <StoredEnd stored={stored} save={save} said={said}>
          {actions}
        </StoredEnd>
        {below}
      </Panel>
    </FormFields>
  );
}
