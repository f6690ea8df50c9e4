/** The pages of the set-up. */
import { Navigate, type RouteObject } from 'react-router';
import { ArchivesPage } from './ArchivesPage';
import { ChangesPage } from './ChangesPage';
import { ImportPage } from './ImportPage';
import { LoggersPage } from './LoggersPage';
import { PlantPage } from './PlantPage';
import { RecorderPage } from './RecorderPage';
import { RunRulesPage } from './RunRulesPage';
import { SetupShell } from './SetupShell';
import { SourcesPage } from './SourcesPage';
import { TagsPage } from './TagsPage';

export const setupRoutes: RouteObject = {
  path: '/setup',
  element: <SetupShell />,
  children: [
    { index: true, element: <Navigate to="recorder" replace /> },
    { path: 'recorder', element: <RecorderPage /> },
    { path: 'sources', element: <SourcesPage /> },
    { path: 'tags', element: <TagsPage /> },
    { path: 'tags/import', element: <ImportPage /> },
    { path: 'loggers', element: <LoggersPage /> },
    { path: 'runs', element: <RunRulesPage /> },
    { path: 'archives', element: <ArchivesPage /> },
    { path: 'plant', element: <PlantPage /> },
    { path: 'changes', element: <ChangesPage /> },
  ],
};
