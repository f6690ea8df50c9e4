/** Features do not know each other; shared parts know no feature; one place knows the chart library. */
module.exports = {
  forbidden: [
    { name: 'feature-apart', severity: 'error', from: { path: '^src/features/([^/]+)/' }, to: { path: '^src/features/', pathNot: '^src/features/$1/' } },
    { name: 'feature-by-index', severity: 'error', from: { pathNot: '^src/features/' }, to: { path: '^src/features/[^/]+/(?!(index|early)\\.ts$)' } },
    { name: 'shared-is-low', severity: 'error', from: { path: '^src/(shared|chart|api)/' }, to: { path: '^src/(features|app)/' } },
    { name: 'one-chart-adapter', severity: 'error', from: { pathNot: '^src/chart/' }, to: { path: 'uplot' } },
    { name: 'views-are-pure', severity: 'error', from: { path: 'View\\.tsx$' }, to: { path: '^src/api/|/use[A-Z][^/]*\\.tsx?$|@tanstack' } },
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
  ],
  options: { tsPreCompilationDeps: true, tsConfig: { fileName: 'tsconfig.json' }, doNotFollow: { path: 'node_modules' } },
};
