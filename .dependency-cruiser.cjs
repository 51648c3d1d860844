// The import arrows: apps → host → client → wire → core; apps → screen; core and screen import nothing of ours.
module.exports = {
  forbidden: [
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
    {
      name: 'core-stands-alone',
      severity: 'error',
      from: { path: '^packages/core/src', pathNot: '\\.test\\.ts$' },
      to: { path: '^(packages/(screen|wire|client|testkit)|apps|demo|bench)/' },
    },
    {
      name: 'words-stand-alone',
      severity: 'error',
      from: { path: '^packages/words/src' },
      to: { path: '^(packages/(core|screen|wire|client|host|pages|testkit)|apps|demo|bench)/' },
    },
    {
      name: 'screen-stands-alone',
      severity: 'error',
      from: { path: '^packages/screen/src', pathNot: '\\.test\\.ts$' },
      to: { path: '^(packages/(core|wire|client|testkit)|apps|demo|bench)/' },
    },
    {
      name: 'sound-stands-alone',
      severity: 'error',
      from: { path: '^packages/sound/src', pathNot: '\\.test\\.ts$' },
      to: { path: '^(packages/(core|screen|wire|client|host|testkit)|apps|demo|bench)/' },
    },
    {
      name: 'pure-packages-know-no-platform',
      severity: 'error',
      from: { path: '^packages/(core|screen|sound|wire)/src', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'wire-knows-core-only',
      severity: 'error',
      from: { path: '^packages/wire/src', pathNot: '\\.test\\.ts$' },
      to: { path: '^(packages/(screen|client|testkit)|apps|demo|bench)/' },
    },
    {
      name: 'client-knows-no-app',
      severity: 'error',
      from: { path: '^packages/client/src', pathNot: '\\.test\\.ts$' },
      to: { path: '^(packages/testkit|apps|demo|bench)/' },
    },
    {
      name: 'client-knows-no-host',
      severity: 'error',
      from: { path: '^packages/client/src' },
      to: { path: '^packages/host/' },
    },
    {
      name: 'host-knows-no-app',
      severity: 'error',
      from: { path: '^packages/host/src', pathNot: '\\.test\\.ts$' },
      to: { path: '^(packages/testkit|apps|demo|bench)/' },
    },
    {
      name: 'host-knows-no-platform',
      severity: 'error',
      from: { path: '^packages/host/src', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    // Kernel and abilities: what an ability is, the abilities, the kernel that loops over them, the session of both.
    {
      name: 'abilities-do-not-know-each-other',
      severity: 'error',
      from: { path: '^packages/(core|host)/src/abilities/([^/]+)/' },
      to: { path: '^packages/$1/src/abilities/', pathNot: '^packages/$1/src/abilities/$2/' },
    },
    {
      name: 'abilities-do-not-know-the-kernel',
      severity: 'error',
      from: { path: '^packages/core/src/(ability|abilities)/' },
      to: { path: '^packages/core/src/(kernel|session)/' },
    },
    {
      name: 'the-kernel-knows-no-ability',
      severity: 'error',
      from: { path: '^packages/core/src/(kernel|session|ledger)/', pathNot: '\\.test\\.ts$' },
      to: { path: '^packages/core/src/abilities/[^/]+/' },
    },
    // Nothing above a port knows the system beneath: one file opens that desktop, and the watchdog lets go of its keys.
    {
      name: 'ports-hide-the-desktop',
      severity: 'error',
      from: {
        path: '^apps/doorstep/src/',
        pathNot:
          '^apps/doorstep/src/(x11/|open-desktop\\.ts|watchdog(-keeper)?\\.ts|index\\.ts|main\\.ts)|\\.test\\.ts$',
      },
      to: { path: '^apps/doorstep/src/x11/' },
    },
    {
      name: 'ports-do-not-know-each-other',
      severity: 'error',
      from: { path: '^apps/doorstep/src/x11/([^/]+)/' },
      // What is hidden is cut out of the very pixels that are fetched.
      to: {
        path: '^apps/doorstep/src/x11/',
        pathNot: '^apps/doorstep/src/x11/($1/|server/|hiding/hidden-windows|wishes)',
      },
    },
    {
      name: 'apps-do-not-know-each-other',
      severity: 'error',
      from: { path: '^apps/([^/]+)/src' },
      to: { path: '^apps/([^/]+)/', pathNot: '^apps/$1/' },
    },
    // A module of the service is a room of its own: what it needs of others it is handed.
    {
      name: 'modules-keep-their-tables',
      severity: 'error',
      from: { path: '^apps/service/src/modules/([^/]+)/' },
      to: { path: '^apps/service/src/modules/.*-tables?\\.ts$', pathNot: '^apps/service/src/modules/$1/' },
    },
    {
      name: 'tables-are-the-modules-own',
      severity: 'error',
      from: { path: '^apps/service/src/', pathNot: '^apps/service/src/(modules|admin)/' },
      to: { path: '^apps/service/src/modules/.*-tables?\\.ts$' },
    },
    {
      name: 'the-shape-knows-no-module',
      severity: 'error',
      from: { path: '^apps/service/src/(module|db|http|sockets)/' },
      to: { path: '^apps/service/src/modules/' },
    },
    {
      name: 'testkit-is-for-tests',
      severity: 'error',
      from: { pathNot: '(^packages/testkit/|\\.test\\.ts$|/test/)' },
      to: { path: '^packages/testkit/' },
    },
  ],
  options: {
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(dist|node_modules)/' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default'],
      extensions: ['.ts', '.vue', '.js', '.mjs', '.d.ts'],
    },
  },
};
