export { setupRoutes } from './routes';
