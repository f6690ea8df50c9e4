/** What of the place of a tag can be mistyped: its numbers, whatever its protocol. */
import { shapes } from '../../../ui/form';

const { duration, literal, nullable, number, optional, union } = shapes;
const NUMBERS = [
  ...['address', 'scale', 'offset', 'deadband'],
  ...['period_s', 'low', 'high', 'noise', 'seed', 'percent'],
];
/** A window of a statistic is a length, or one of the plant's calendar. */
const CALENDAR = ['hour', 'shift', 'day'] as const;

export const ADDRESS_SHAPE = shapes.shape({
  ...Object.fromEntries(NUMBERS.map((name) => [name, optional(number)])),
  initial: optional(nullable(number)),
  preset: optional(nullable(number)),
  window: optional(union([duration, literal(CALENDAR)])),
});
