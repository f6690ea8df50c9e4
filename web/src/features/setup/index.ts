export { SetupPages } from './SetupPages';
