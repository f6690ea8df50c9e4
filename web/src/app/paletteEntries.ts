/** What the palette finds: tags, saved sheets, pages and actions, by the words that are typed. */
import * as common from 'texts/common.json';
import type { PageLink } from '../domain/pages';
import type { Sheet } from '../entities/sheets';
import type { Tag } from '../platform/client';
import type { PageAction } from '../ui/pageActions';

export type EntryGroup = 'Tags' | 'Sheets' | 'Pages' | 'Actions';

export interface Entry {
  key: string;
  group: EntryGroup;
  name: string;
  /** What tells it from its neighbours. */
  detail: string;
  run: () => void;
}

export interface Sources {
  tags: readonly Tag[];
  sheets: readonly Sheet[];
  pages: readonly PageLink[];
  actions: readonly PageAction[];
}

export interface Runs {
  onTag: (tag: Tag) => void;
  /** Goes to a page of the application. */
  onPath: (path: string) => void;
}

const MOST_SHEETS = 20;
const MOST_TAGS_UNASKED = 8;

/** Whether each word that was typed is somewhere in a text. */
export function hasWords(text: string, typed: string): boolean {
  const inside = text.toLowerCase();
  return typed
    .toLowerCase()
    .split(/\s+/)
    .every((word) => inside.includes(word));
}

/** The entries that match, group by group. With nothing typed the ways through the application come first, otherwise
 * what is looked for most. The server has chosen the tags; those of an earlier text are left out here. */
export function entriesFor(typed: string, sources: Sources, { onTag, onPath }: Runs): Entry[] {
  const tags = sources.tags
    .filter((tag) => hasWords([tag.name, tag.description, tag.unit, tag.equipment].join(' '), typed))
    .slice(0, typed === '' ? MOST_TAGS_UNASKED : undefined)
    .map((tag) => ({
      key: tag.uid,
      group: 'Tags' as const,
      name: tag.name,
      detail: [tag.unit, tag.recorded.length > 0 ? '' : common.notRecorded, tag.description]
        .filter(Boolean)
        .join(' · '),
      run: () => onTag(tag),
    }));
  const sheets = sources.sheets
    .filter((sheet) => hasWords(`${sheet.folder} ${sheet.name}`, typed))
    .slice(0, MOST_SHEETS)
    .map((sheet) => ({
      key: sheet.uid,
      group: 'Sheets' as const,
      name: sheet.name,
      detail: [sheet.page === 'trends' ? 'trend' : sheet.page, sheet.folder].filter(Boolean).join(' · '),
      run: () => onPath(sheetPath(sheet)),
    }));
  const pages = sources.pages
    .filter(({ name }) => hasWords(name, typed))
    .map(({ path, name }) => ({
      key: path,
      group: 'Pages' as const,
      name,
      detail: '',
      run: () => onPath(path),
    }));
  const actions = sources.actions
    .filter(({ name }) => hasWords(name, typed))
    .map(({ name, run }) => ({ key: name, group: 'Actions' as const, name, detail: '', run }));
  return typed === ''
    ? [...pages, ...actions, ...sheets, ...tags]
    : [...tags, ...sheets, ...pages, ...actions];
}

/** The link that opens a saved sheet as it was saved. */
export function sheetPath(sheet: Pick<Sheet, 'uid' | 'page' | 'view'>): string {
  return sheet.page === 'trends' ? `/trends?sheet=${sheet.uid}` : `/${sheet.page}?${sheet.view}`;
}
