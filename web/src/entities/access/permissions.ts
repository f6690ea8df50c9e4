/** What permissions are called. */
import * as wording from 'texts/access.json';
import type { Permission } from '../plant';

export const PERMISSIONS: Readonly<Record<Permission, string>> = {
  view: wording.permissionView,
  save_views: wording.permissionSaveViews,
  export: wording.permissionExport,
  annotate: wording.permissionAnnotate,
  write_values: wording.permissionWriteValues,
  control_loggers: wording.permissionControlLoggers,
  manage_reports: wording.permissionManageReports,
  correct_history: wording.permissionCorrectHistory,
  configure: wording.permissionConfigure,
  manage_people: wording.permissionManagePeople,
};
