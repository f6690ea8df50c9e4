/** The pages of the set-up. */
import type { ReactElement } from 'react';
import { Navigate, Route, Routes } from 'react-router';
import * as wording from 'texts/setup.json';
import { NoSuchPage } from '../../ui';
import { lazyPart } from '../../ui/lazyPart';
import { SETUP_PARTS } from '../../domain/pages';
import { SetupShell } from './SetupShell';

// What is not opened is not loaded.
const ArchivesPage = lazyPart(
  wording.theListOfArchives,
  async () => (await import('./plant/ArchivesPage')).ArchivesPage,
);
const ChangesPage = lazyPart(
  wording.theListOfChanges,
  async () => (await import('./plant/ChangesPage')).ChangesPage,
);
const EquipmentPage = lazyPart(
  wording.theListOfEquipment,
  async () => (await import('./equipment/EquipmentPage')).EquipmentPage,
);
const ImportPage = lazyPart(
  wording.theImportOfTags,
  async () => (await import('./tags/ImportPage')).ImportPage,
);
const LoggersPage = lazyPart(
  wording.theListOfLoggers,
  async () => (await import('./loggers/LoggersPage')).LoggersPage,
);
const PeoplePage = lazyPart(
  wording.theListOfPeople,
  async () => (await import('./people/PeoplePage')).PeoplePage,
);
const PlantPage = lazyPart(wording.thePlant, async () => (await import('./plant/PlantPage')).PlantPage);
const RecorderPage = lazyPart(
  wording.theStateOfTheRecorder,
  async () => (await import('./plant/RecorderPage')).RecorderPage,
);
const RunRulesPage = lazyPart(
  wording.theListOfRulesOfRuns,
  async () => (await import('./plant/RunRulesPage')).RunRulesPage,
);
const SourcesPage = lazyPart(
  wording.theListOfSources,
  async () => (await import('./sources/SourcesPage')).SourcesPage,
);
const TagsPage = lazyPart(wording.theListOfTags, async () => (await import('./tags/TagsPage')).TagsPage);

/** Each page below its path. */
export function SetupPages(): ReactElement {
  return (
    <Routes>
      <Route element={<SetupShell />}>
        <Route index element={<Navigate to="/setup/recorder" replace />} />
        <Route path="recorder" element={<RecorderPage />} />
        <Route path="sources" element={<SourcesPage />} />
        <Route path="tags" element={<TagsPage />} />
        <Route path="tags/import" element={<ImportPage />} />
        <Route path="loggers" element={<LoggersPage />} />
        <Route path="equipment" element={<EquipmentPage />} />
        <Route path="runs" element={<RunRulesPage />} />
        <Route path="archives" element={<ArchivesPage />} />
        <Route path="plant" element={<PlantPage />} />
        <Route path="people" element={<PeoplePage />} />
        <Route path="changes" element={<ChangesPage />} />
        <Route
          path="*"
          element={<NoSuchPage ways={SETUP_PARTS.map(([path, name]) => [`/setup/${path}`, name] as const)} />}
        />
      </Route>
    </Routes>
  );
}
