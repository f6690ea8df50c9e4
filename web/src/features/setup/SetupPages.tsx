/** The pages of the set-up. */
import type { ReactElement } from 'react';
import { Navigate, Route, Routes } from 'react-router';
import { NoSuchPage } from '../../ui';
import { ArchivesPage } from './plant/ArchivesPage';
import { ChangesPage } from './plant/ChangesPage';
import { EquipmentPage } from './equipment/EquipmentPage';
import { ImportPage } from './tags/ImportPage';
import { LoggersPage } from './loggers/LoggersPage';
import { PlantPage } from './plant/PlantPage';
import { RecorderPage } from './plant/RecorderPage';
import { RunRulesPage } from './plant/RunRulesPage';
import { SETUP_PARTS } from '../../domain/pages';
import { SetupShell } from './SetupShell';
import { SourcesPage } from './sources/SourcesPage';
import { TagsPage } from './tags/TagsPage';

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
        <Route path="changes" element={<ChangesPage />} />
        <Route
          path="*"
          element={<NoSuchPage ways={SETUP_PARTS.map(([path, name]) => [`/setup/${path}`, name] as const)} />}
        />
      </Route>
    </Routes>
  );
}
