/** What roles and permissions are called. */
import * as wording from 'texts/setup-people.json';
import type { Permission } from '../../../entities/plant';

const ROLES: Readonly<Record<string, string>> = {
  viewer: wording.viewer,
  operator: wording.operator,
  engineer: wording.engineer,
  administrator: wording.administrator,
};

export const PERMISSIONS: Readonly<Record<Permission, string>> = {
  view: wording.permissionView,
  save_views: wording.permissionSaveViews,
  export: wording.permissionExport,
  annotate: wording.permissionAnnotate,
  operate: wording.permissionOperate,
  manage_reports: wording.permissionManageReports,
  correct_history: wording.permissionCorrectHistory,
  configure: wording.permissionConfigure,
  manage_people: wording.permissionManagePeople,
};

export const roleName = (role: string): string => ROLES[role] ?? role;
