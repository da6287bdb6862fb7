// The house's import rules: app → contract, core; server, cli → contract, engine, core; engine → contract, core;
// contract → core; inside core, time at the bottom, deliverable at the top.
const forbid = (name, from, to, comment) => ({
  name,
  severity: 'error',
  comment,
  from: { path: from },
  to: { path: to },
})

/** What keeps the folders of a place from knowing those above them. */
const floorRules = (place, floors) =>
  floors.map((floor, i) =>
    forbid(
      `${place}-${floor}`,
      `^${place}/${floor}/(?!.*\\.test\\.ts$)`,
      `^${place}/(${floors.slice(i + 1).join('|') || 'none'})/`,
      `${floors[0]} at the bottom, ${floors.at(-1)} at the top`,
    ),
  )

/** The folders of core/ from the bottom up: a folder imports only from itself and from those before it. */
const floors = [
  'time',
  'kernel',
  'media',
  'picture',
  'sound',
  'lineup',
  'stills',
  'codec',
  'container',
  'analysis',
  'timeline',
  'files',
  'split',
  'recipe',
  'job',
  'measure',
  'spec',
  'deliverable',
]

/** The folders of engine/worker/ that steps stand on, likewise. */
const workerFloors = ['sources', 'making', 'proving', 'steps']

module.exports = {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    forbid(
      'core-stands-alone',
      '^core/',
      '^(contract|engine|server|app|cli|demo|bench|tests)/',
      'core/ knows nothing of what is around it',
    ),
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-packages',
      severity: 'error',
      comment: 'core/ uses zod, an XML and a CSV reader, and regular expressions of linear time only',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: {
        dependencyTypes: ['npm', 'npm-dev', 'npm-optional'],
        pathNot: 'node_modules/(zod|fast-xml-parser|papaparse|re2js)',
      },
    },
    forbid('engine-knows-core-only', '^engine/(?!.*\\.test\\.ts$)', '^(server|app|cli|demo|bench)/', 'engine → core'),
    forbid('server-knows-engine', '^server/', '^(app|cli|demo|bench)/', 'server → engine → core'),
    forbid('app-over-http-only', '^app/', '^(engine|server|cli|demo|bench)/', 'app → contract, core'),
    forbid('cli-knows-engine', '^cli/(?!.*\\.test\\.ts$)', '^(server|app|demo|bench)/', 'cli → engine'),
    ...floorRules('core', floors),
    ...floorRules('engine/worker', workerFloors),
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.node.json' },
    enhancedResolveOptions: { extensions: ['.ts', '.js', '.json', '.vue'] },
  },
}
