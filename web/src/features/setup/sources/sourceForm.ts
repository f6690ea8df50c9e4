/** A source while it is edited. */
import { fieldsOf } from '../../../ui/form';
import type { Fields, Protocol } from '../common/protocols';

export interface SourceForm {
  name: string;
  protocol: Protocol;
  config: Fields;
  enabled: boolean;
  /** A password that was typed; null: the one that is kept. */
  secret: string | null;
}

export const SourceField = fieldsOf<SourceForm>();
