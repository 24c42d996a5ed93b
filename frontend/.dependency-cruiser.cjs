/** Rooms of the front end: domain knows itself alone, features do not know each other, no circles. */
module.exports = {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'domain-knows-itself-alone',
      severity: 'error',
      from: { path: '^src/domain', pathNot: '\\.test\\.' },
      to: { pathNot: '^src/domain' },
    },
    {
      name: 'features-do-not-know-each-other',
      severity: 'error',
      from: { path: '^src/features/([^/]+)/' },
      to: { path: '^src/features/([^/]+)/', pathNot: '^src/features/$1/' },
    },
    {
      name: 'ui-knows-no-feature',
      severity: 'error',
      from: { path: '^src/(ui|api)' },
      to: { path: '^src/features' },
    },
  ],
  options: {
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    doNotFollow: { path: 'node_modules' },
  },
}
