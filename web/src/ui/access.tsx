/** Whether who looks at a part of a page may change what it shows. */
import { createContext, useContext, type ReactElement, type ReactNode } from 'react';

/** Null: they may; else why not, in a sentence. */
export const AccessContext = createContext<string | null>(null);

/** Why what is shown here may not be changed; null: it may. */
export function useRefusal(): string | null {
  return useContext(AccessContext);
}

/** Whether it is said already, at the head of the panel around. */
export const SaidContext = createContext(false);

/** Offered to those alone who may change what is shown here. */
export function Offered({ children }: { children: ReactNode }): ReactNode {
  return useRefusal() === null ? children : null;
}

/** Fields to be read, where nobody may change them: no key and no click changes what cannot be saved. */
export function ReadOnly({ children }: { children: ReactElement }): ReactElement {
  return useRefusal() === null ? (
    children
  ) : (
    <fieldset disabled style={{ display: 'contents' }}>
      {children}
    </fieldset>
  );
}
