export { RecordsPage } from './RecordsPage';
