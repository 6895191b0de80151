// The arrows of import (docs/architecture.md): a package imports what lies below it and nothing else.
const below = {
  core: [],
  review: [],
  kernels: ['core'],
  formats: ['core', 'kernels'],
  engine: ['core', 'kernels', 'formats'],
  renderer: ['core', 'kernels', 'formats'],
  editor: ['core'],
};
const all = Object.keys(below);
const outside = (allowed) => all.filter((name) => !allowed.includes(name));
const rule = (from, allowed) => ({
  name: `${from.split('/')[1]}-imports-only-what-lies-below`,
  severity: 'error',
  from: { path: `^${from}/`, pathNot: '\\.test\\.tsx?$' },
  to: { path: [`^packages/(${[...outside(allowed), '-'].filter((name) => `packages/${name}` !== from).join('|')})/`, ...['apps/web', 'apps/server', 'apps/cli'].filter((app) => app !== from).map((app) => `^${app}/`)] },
});

// The rooms of core, from the lowest up: a room imports those before it. What stands beside them (errors, limits, vectors …) serves all.
const rooms = ['color', 'raster', 'params', 'tone', 'readings', 'blend', 'sun', 'camera', 'sky', 'figures', 'trails', 'air', 'elements', 'model', 'light', 'corrections', 'masks', 'layers', 'document', 'evaluate'];
const roomRule = (room, at) => ({
  name: `core-${room}-imports-only-rooms-below`,
  severity: 'error',
  from: { path: `^packages/core/src/${room}/`, pathNot: '\\.test\\.ts$' },
  // Elements are named in the types of a document, and look at them.
  to: { path: `^packages/core/src/(${rooms.slice(at + 1).join('|') || 'nothing'})/`, ...(room === 'elements' ? { pathNot: '^packages/core/src/model/model\\.ts$' } : {}) },
});

/** @type {import('dependency-cruiser').IConfiguration} */
module.exports = {
  forbidden: [
    ...all.map((name) => rule(`packages/${name}`, below[name])),
    rule('apps/web', ['core', 'kernels', 'formats', 'engine', 'renderer', 'editor', 'review']),
    rule('apps/cli', ['core', 'kernels', 'formats', 'engine', 'renderer']),
    rule('apps/server', ['review']),
    ...rooms.map(roomRule),
    { name: 'core-has-these-rooms', severity: 'error', from: { path: '^packages/core/src/' }, to: { path: '^packages/core/src/[^/]+/', pathNot: `^packages/core/src/(${rooms.join('|')})/|/fixtures/` } },
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    { name: 'core-needs-only-schemas-and-hashes', severity: 'error', from: { path: '^packages/core/', pathNot: '\\.test\\.ts$' }, to: { dependencyTypes: ['npm', 'npm-dev', 'core'], pathNot: '/(yup|@noble/hashes)/' } },
    { name: 'no-react-below-the-interface', severity: 'error', from: { path: '^packages/', pathNot: '\\.test\\.ts$' }, to: { path: 'node_modules/(react|react-dom|radix-ui)/' } },
    { name: 'nothing-unresolved', severity: 'error', from: {}, to: { couldNotResolve: true, pathNot: '\\.(wasm|css)' } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(dist|build)/' },
    tsPreCompilationDeps: true,
    combinedDependencies: true,
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'default', 'types'], extensions: ['.ts', '.tsx', '.mjs', '.js'] },
    moduleSystems: ['es6'],
  },
};
