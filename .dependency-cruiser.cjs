/** The floors of docs/structure.md: each may import only what stands below it. */
const floor = (name, from, to, comment) => ({ name, comment, severity: 'error', from, to })
/** Tests, and what only they use. */
const TESTS = '(\\.test|/testing|^core/laws)\\.ts$'
const CORE_ORDER = ['geometry', 'time', 'camera', 'moves', 'depth', 'document', 'sound', 'ink', 'script', 'stage', 'checks', 'edits', 'interchange', 'scene']

module.exports = {
  forbidden: [
    floor('no-circle', {}, { circular: true, dependencyTypesNot: ['type-only'] }, 'a circle has no bottom'),
    floor('core-stands-alone', { path: '^core/', pathNot: TESTS }, { pathNot: ['^core/', 'node_modules/(zod|fractional-indexing|papaparse|perfect-freehand|saxes|clipper2-ts|@gltf-transform/core)/'] }, 'core computes and knows nothing else'),
    ...CORE_ORDER.slice(0, -1).map((folder, i) =>
      floor(
        `core-${folder}-below`,
        { path: `^core/${folder}/`, pathNot: TESTS },
        { path: `^core/(${CORE_ORDER.slice(i + 1).join('|')})/` },
        'a core folder imports only those listed before it',
      ),
    ),
    floor('core-inside-by-file', { path: '^core/', pathNot: TESTS }, { path: '^core/[^/]+/index\\.ts$' }, 'inside core import the file, not the index'),
    floor('viewport-knows-no-vue', { path: '^app/viewport/' }, { path: ['node_modules/(vue|pinia|primevue|@vue)', '^app/(stores|components|composables|pages|timeline|plan)/', '\\.vue$'] }),
    floor('timeline-knows-no-store', { path: '^app/(timeline|plan)/' }, { path: ['node_modules/(vue|pinia|primevue|three)', '^app/(stores|components|composables|pages|viewport)/', '\\.vue$'] }),
    floor('edits-change-below', { path: '^core/edits/change/', pathNot: TESTS }, { path: '^core/edits/(take|ink|outline)/' }, 'what a change is does not hang on what kinds there are'),
    floor('pure-folders', { path: '^app/(canvas|table|curves|exposures|boards|workers|clients|text)/', pathNot: TESTS }, { path: ['node_modules/(vue|pinia|primevue|@vue)', '^app/(stores|components|composables|pages)/', '\\.vue$'] }, 'they know no store and no Vue'),
    floor('gestures-know-no-state', { path: '^app/gestures/' }, { path: ['^app/(stores|components|composables|pages)/', 'node_modules/pinia'] }),
    floor('pages-are-thin', { path: '^app/pages/' }, { path: ['^app/(workers|viewport|timeline|plan|api)/', '^server/'] }),
    floor('app-not-server', { path: '^app/' }, { path: '^(server|demo)/' }),
    floor('server-not-app', { path: '^(server|shared|demo)/' }, { path: '^app/' }),
    floor('shared-below', { path: '^shared/' }, { path: '^(server|demo|app)/' }),
    floor('demo-below', { path: '^demo/' }, { path: '^(server|app|shared)/' }),
    floor('routes-not-models', { path: '^server/api/' }, { path: ['^server/(models|migrations)/', 'node_modules/(sequelize|pg)/'] }),
    floor('stores-below-components', { path: '^app/stores/' }, { path: ['^app/(components|pages)/', '\\.vue$'] }),
  ],
  options: {
    doNotFollow: { path: ['node_modules', '\\.nuxt', '\\.output'] },
    exclude: { path: ['\\.nuxt/', '\\.output/'] },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'scripts/tsconfig.cruise.json' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'require', 'node', 'default'], extensions: ['.ts', '.vue', '.mjs', '.js'] },
  },
}
