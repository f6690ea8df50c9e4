export { StatisticsPage } from './StatisticsPage';
