/** The rooms and what each may import: the tables of docs/architecture.md. */
const rooms = {
  quantity: [],
  statistics: [],
  trial: ['quantity'],
  design: ['trial', 'quantity', 'statistics'],
  ground: ['trial', 'quantity', 'design'],
  numbers: ['trial', 'quantity', 'statistics', 'ground'],
  document: ['trial', 'quantity', 'design', 'ground', 'numbers'],
  amounts: ['trial', 'quantity', 'ground'],
  analysis: ['trial', 'quantity', 'statistics', 'numbers'],
  decision: ['trial', 'quantity', 'statistics', 'numbers', 'amounts', 'analysis'],
  exchange: ['trial', 'quantity', 'ground', 'numbers', 'document'],
}

/** The same of the web application: pages at the top, data at the bottom. Files beside them put it together. */
const webRooms = {
  data: [],
  plan: ['data'],
  chart: ['plan', 'data'],
  grid: ['plan', 'data'],
  forms: ['plan', 'data'],
  steps: ['forms', 'grid', 'chart', 'plan', 'data'],
  pages: ['steps', 'forms', 'grid', 'chart', 'plan', 'data'],
  shell: ['steps', 'data'],
}

module.exports = {
  forbidden: [
    ...Object.entries(rooms).map(([room, may]) => ({
      name: `${room}-imports-only-its-rooms`,
      severity: 'error',
      from: { path: `^core/src/${room}/` },
      to: { path: '^core/src/', pathNot: `^core/src/(${[room, ...may].join('|')})/` },
    })),
    ...Object.entries(webRooms).map(([room, may]) => ({
      name: `web-${room}-imports-only-its-rooms`,
      severity: 'error',
      from: { path: `^web/src/${room}/` },
      to: { path: '^web/src/', pathNot: `^web/src/(${[room, ...may].join('|')})/` },
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
      // Backups are commands of the store: the command line hands them through.
      from: { path: '^(web|server|cli)/src/', pathNot: '^cli/src/store-commands\\.ts$' },
      to: { path: '^(web|server|cli|demo)/src/', pathNot: '^$1/src/' },
    },
    {
      name: 'the-command-line-takes-backups-alone',
      severity: 'error',
      from: { path: '^cli/src/store-commands\\.ts$' },
      to: { path: '^(web|server|demo)/src/', pathNot: '^server/src/store/backup\\.ts$' },
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
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['source', 'import', 'node', 'default'],
      extensions: ['.ts', '.tsx', '.mjs', '.js', '.json'],
    },
  },
}
