import { useQuery } from '@tanstack/react-query';
import type { WindowChoice } from '../../../domain/windows';
import { plantQuery } from '../../../entities/plant';
import { THIS_SHIFT, WITHOUT_SHIFTS } from './state';

/** The window with which statistics begin. */
export function useUsualWindow(): WindowChoice {
  const { data: plant } = useQuery(plantQuery);
  return plant?.shifts.length === 0 ? WITHOUT_SHIFTS : THIS_SHIFT;
}
