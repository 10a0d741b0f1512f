/** The rooms and what each may import: the tables of docs/architecture.md. */
const rooms = {
  quantity: [],
  trial: ['quantity'],
  statistics: [],
  design: ['trial', 'quantity', 'statistics'],
  ground: ['trial', 'quantity', 'design'],
  amounts: ['trial', 'quantity', 'ground'],
  numbers: ['trial', 'quantity', 'statistics', 'ground'],
  analysis: ['trial', 'quantity', 'numbers', 'statistics'],
  decision: ['trial', 'quantity', 'amounts', 'numbers', 'analysis', 'statistics'],
  exchange: ['trial', 'quantity', 'numbers'],
}

module.exports = {
  forbidden: [
    ...Object.entries(rooms).map(([room, may]) => ({
      name: `${room}-imports-only-its-rooms`,
      severity: 'error',
      from: { path: `^core/src/${room}/` },
      to: { path: '^core/src/', pathNot: `^core/src/(${[room, ...may].join('|')})/` },
    })),
    {
      name: 'rooms-are-entered-by-their-index',
      severity: 'error',
      from: { path: '^core/src/([^/]+)/' },
      to: { path: '^core/src/([^/]+)/.+', pathNot: ['^core/src/$1/', '/index\\.ts$'] },
    },
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: '^core/src/' },
      to: { path: '(^node:|^(server|web|cli|demo)/|node_modules/(react|koa|sequelize|sqlite3|@mantine|dexie))' },
    },
    {
      name: 'core-uses-file-formats-in-exchange-only',
      severity: 'error',
      from: { path: '^core/src/', pathNot: '^core/src/exchange/' },
      to: { path: 'node_modules/(papaparse|fflate)/' },
    },
    { name: 'core-is-not-node', severity: 'error', from: { path: '^core/src/' }, to: { dependencyTypes: ['core'] } },
    {
      name: 'web-server-and-cli-meet-only-in-core',
      severity: 'error',
      from: { path: '^(web|server|cli)/src/' },
      to: { path: '^(web|server|cli|demo)/src/', pathNot: '^$1/src/' },
    },
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'nothing-unresolved',
      severity: 'error',
      from: {},
      to: { couldNotResolve: true, pathNot: '^(virtual:|\\.+/.*\\.css|@fontsource)' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(/dist/|\\.module\\.css$)' },
    tsPreCompilationDeps: false,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['source', 'import', 'node', 'default'],
      extensions: ['.ts', '.tsx', '.mjs', '.js', '.json'],
    },
  },
}
