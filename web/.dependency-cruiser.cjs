/** Floors: app, features, entities, ui and chart, platform, domain. Each calls only those below; features do not know
 * each other; one place knows the chart library, one floor the client. */
const floor = (name, ...above) => ({
  name, severity: 'error',
  from: { path: `^src/${name}/` },
  to: { path: `^src/(${above.join('|')})/` },
});

module.exports = {
  forbidden: [
    floor('domain', 'app', 'features', 'entities', 'ui', 'chart', 'platform'),
    floor('platform', 'app', 'features', 'entities', 'ui', 'chart'),
    floor('ui', 'app', 'features', 'entities', 'chart'),
    floor('chart', 'app', 'features', 'entities'),
    floor('entities', 'app', 'features', 'chart'),
    floor('features', 'app'),
    { name: 'domain-is-pure', severity: 'error', from: { path: '^src/domain/', pathNot: '\\.test\\.' }, to: { dependencyTypes: ['npm'] } },
    { name: 'feature-apart', severity: 'error', from: { path: '^src/features/([^/]+)/' }, to: { path: '^src/features/', pathNot: '^src/features/$1/' } },
    { name: 'feature-by-index', severity: 'error', from: { pathNot: '^src/features/' }, to: { path: '^src/features/[^/]+/(?!(index|early)\\.ts$)' } },
    { name: 'one-caller-of-the-client', severity: 'error', from: { path: '^src/(app|features|ui|chart)/' }, to: { path: '^src/platform/(client|stream)\\.ts$', dependencyTypesNot: ['type-only'] } },
    { name: 'one-chart-adapter', severity: 'error', from: { pathNot: '^src/chart/' }, to: { path: 'uplot' } },
    { name: 'views-are-pure', severity: 'error', from: { path: 'View\\.tsx$' }, to: { path: '^src/entities/|/use[A-Z][^/]*\\.tsx?$|@tanstack', dependencyTypesNot: ['type-only'] } },
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
  ],
  options: { tsPreCompilationDeps: true, tsConfig: { fileName: 'tsconfig.json' }, doNotFollow: { path: 'node_modules' } },
};
