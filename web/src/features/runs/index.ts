export { RunsPage } from './RunsPage';
