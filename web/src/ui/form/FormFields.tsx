/** Fields in here are those of this form. */
import { Box } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import { FormProvider, type FieldValues, type UseFormReturn } from 'react-hook-form';
import { InnerForm } from '../InnerForm';
import { Told } from '../Panel';
import { ShownFields } from './shown';
import type { SentForm } from './useSentForm';

interface FormFieldsProps<F extends FieldValues> {
  of: { form: UseFormReturn<F>; shown: Set<string> };
  children: ReactNode;
}

export function FormFields<F extends FieldValues>({ of, children }: FormFieldsProps<F>): ReactElement {
  return (
    <ShownFields value={of.shown}>
      <FormProvider {...of.form}>{children}</FormProvider>
    </ShownFields>
  );
}

interface InnerFieldsProps<F extends FieldValues> {
  of: SentForm<F>;
  children: ReactNode;
}

/** A form inside a larger one: Enter in a field sends this one alone. */
export function InnerFields<F extends FieldValues>({ of, children }: InnerFieldsProps<F>): ReactElement {
  const { onPlaced, send, general } = of;
  return (
    <InnerForm onEnter={send} onPlaced={onPlaced}>
      <Box sx={{ display: 'grid', gap: 1 }}>
        <FormFields of={of}>
          {children}
          {general !== null && <Told kind="error">{general}</Told>}
        </FormFields>
      </Box>
    </InnerForm>
  );
}
