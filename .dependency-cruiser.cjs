/** The import rules: imports point down, and there are no cycles. */
const rule = (name, comment, from, to) => ({ name, comment, severity: 'error', from, to });

module.exports = {
  forbidden: [
    rule('no-cycles', 'Modules do not import each other in a cycle, not even types.', {}, { circular: true }),
    rule(
      'core-stands-alone',
      'The core knows nothing of the command line and the server.',
      { path: '^src/core/' },
      { path: '^src/(cli|server|index)' },
    ),
    rule(
      'core-without-interface',
      'The core has no console, commander or HTTP.',
      { path: '^src/core/' },
      { path: 'node_modules/(commander|picocolors|yocto-spinner|fastify)|^(node:)?(http|https|readline|tty)$' },
    ),
    rule(
      'server-below-cli',
      'The server does not import the command line.',
      { path: '^src/server/' },
      { path: '^src/cli/' },
    ),
    rule(
      'config-and-files-know-no-steps',
      'The project file and files know nothing of steps, builds and languages.',
      { path: '^src/core/(config|plan|files)/' },
      { path: '^src/core/(build|execute|cache|outputs|watch|explain|steps|compilers|languages|assets)/' },
    ),
    rule(
      'builds-know-steps-by-their-face',
      'What builds and explains knows a step only by its face.',
      { path: '^src/core/(build|execute|cache|outputs|watch|explain)/' },
      {
        path: '^src/core/(steps|compilers|languages/(css|js))/',
        pathNot: '^src/core/steps/step\\.ts$',
      },
    ),
    rule(
      'languages-below-steps',
      'What is known of languages does not know steps, builds, files or the project.',
      { path: '^src/core/(languages/(css|js|source-maps)|diagnostics)/' },
      { path: '^src/core/(steps|build|execute|cache|outputs|watch|explain|config|plan|files|compilers|assets)/' },
    ),
    rule(
      'compilers-below-steps',
      'Compilers and templates do not know builds or the project.',
      { path: '^src/core/(compilers|templates)/' },
      { path: '^src/core/(build|execute|cache|outputs|watch|explain|languages/css)/' },
    ),
    rule(
      'maps-at-the-bottom',
      'Source maps know nothing of languages.',
      { path: '^src/core/languages/source-maps/' },
      { path: '^src/core/languages/(css|js)/' },
    ),
    rule(
      'steps-read-through-their-context',
      'What steps do is known by what they read: they have no way to the disk but their context.',
      { path: '^src/core/(steps|compilers|templates|checkers|languages/(css|js|source-maps))/' },
      {
        path: '^(node:)?fs(/promises)?$|^src/core/(files/(file-table|folder-tree|list-files)|outputs/(publish|record)|watch/watcher)',
      },
    ),
    rule(
      'public-api-for-tools',
      'Tools and the bench use the package as its users do.',
      { path: '^(tools|bench)/' },
      { path: '^src/' },
    ),
    rule(
      'no-development-packages',
      'The product does not import development packages, except the database that the release contains; of those that projects install, it imports types.',
      { path: '^src/' },
      {
        dependencyTypes: ['npm-dev', 'npm-no-pkg'],
        dependencyTypesNot: ['npm-peer'],
        pathNot: '(@types|^node_modules/lmdb)/',
      },
    ),
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'node', 'default', 'types'] },
  },
};
