export { FilesPage } from './FilesPage';
