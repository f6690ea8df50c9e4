/** The pages of the set-up. */
import type { ReactElement } from 'react';
import { Navigate, Route, Routes } from 'react-router';
import { NoSuchPage } from '../../shared/ui';
import { ArchivesPage } from './ArchivesPage';
import { ChangesPage } from './ChangesPage';
import { EquipmentPage } from './EquipmentPage';
import { ImportPage } from './ImportPage';
import { LoggersPage } from './LoggersPage';
import { PlantPage } from './PlantPage';
import { RecorderPage } from './RecorderPage';
import { RunRulesPage } from './RunRulesPage';
import { PARTS } from './parts';
import { SetupShell } from './SetupShell';
import { SourcesPage } from './SourcesPage';
import { TagsPage } from './TagsPage';

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
          element={<NoSuchPage ways={PARTS.map(([path, name]) => [`/setup/${path}`, name] as const)} />}
        />
      </Route>
    </Routes>
  );
}
