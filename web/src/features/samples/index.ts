export { SamplesPage } from './SamplesPage';
