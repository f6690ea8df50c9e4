/** What roles are called. */
import * as wording from 'texts/setup-people.json';
import type { Role } from '../../../entities/people';

const OF_THE_PROGRAM: Readonly<Record<string, string>> = {
  viewer: wording.viewer,
  operator: wording.operator,
  engineer: wording.engineer,
  administrator: wording.administrator,
};

/** By what stands in an account. */
export function roleName(key: string, roles: readonly Role[]): string {
  return OF_THE_PROGRAM[key] ?? roles.find((one) => one.key === key)?.name ?? key;
}
