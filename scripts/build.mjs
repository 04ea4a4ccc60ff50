// Bundles the program and the library into dist/. Code splitting keeps each command, and each heavy package, in a file that loads only when used.
import { readFileSync, rmSync } from 'node:fs'
import { isBuiltin } from 'node:module'
import { dirname, relative, resolve } from 'node:path'
import { build } from 'esbuild'
import { rollup } from 'rollup'

const { version } = JSON.parse(readFileSync('package.json', 'utf8'))
const BANNER = "import{createRequire as __cr}from'node:module';const require=__cr(import.meta.url);"
// CommonJS packages that look at their own place on disk; loaded only when something is written, or waited for.
const external = ['cli-progress', 'proper-lockfile']

const { metafile, outputFiles } = await build({
  entryPoints: { bramblefront: 'src/cli/main.ts', index: 'src/index.ts' },
  outdir: 'dist',
  bundle: true,
  splitting: true,
  format: 'esm',
  platform: 'node',
  target: 'node20',
  minifySyntax: true,
  minifyWhitespace: true,
  legalComments: 'none',
  chunkNames: 'parts/[name]-[hash]',
  external,
  define: { BRAMBLEFRONT_VERSION: JSON.stringify(version) },
  // CommonJS packages call require() for Node's own modules; an ES module has none unless it is made.
  banner: { js: BANNER },
  metafile: true,
  write: false,
  plugins: [{ name: 'nothing-to-start', setup: withoutProcesses }],
})

// Only files that speak of require need it: making one for each of them is felt at every start.
const texts = new Map(
  outputFiles.map(({ path, text }) => {
    const rest = text.replace(BANNER, '')
    return [path, /\brequire\b/.test(rest) ? text : rest]
  }),
)

// Every file costs a start its share of a millisecond. So what checking needs is few files: what the library has of it, the rules apart, and what showing needs as well.
const [checked, shown, library] = ['src/cli/commands/check.ts', 'src/cli/commands/show.ts', 'src/index.ts'].map(needed)
const together = (id) => {
  const file = relative(process.cwd(), id)
  if (!checked.has(file)) return undefined
  if (library.has(file)) return shown.has(file) ? 'core' : 'rules'
  return shown.has(file) ? 'base' : undefined
}

/** Commander can start other programs as its commands. None of ours is one, and loading what starts them is felt. */
function withoutProcesses(builder) {
  builder.onResolve({ filter: /^node:child_process$/ }, ({ importer }) =>
    /commander/.test(importer) ? { path: 'none', namespace: 'none' } : undefined,
  )
  builder.onLoad({ filter: /./, namespace: 'none' }, () => ({ contents: '' }))
}

/** What a module of the program loads with itself, of the files that are made of it. */
function needed(module) {
  const [own] = Object.entries(metafile.outputs).find(([, { entryPoint }]) => entryPoint === module)
  const found = new Set()
  const add = (file) => {
    for (const { path, kind, external } of metafile.outputs[file].imports) {
      if (external || kind !== 'import-statement' || found.has(path)) continue
      found.add(path)
      add(path)
    }
  }
  add(own)
  return found
}

rmSync('dist', { recursive: true, force: true })
const bundle = await rollup({
  input: { bramblefront: 'dist/bramblefront.js', index: 'dist/index.js' },
  external: (id) => isBuiltin(id) || external.includes(id),
  treeshake: false,
  plugins: [
    {
      name: 'bundled',
      resolveId: (id, from = resolve('index.js')) => resolve(dirname(from), id),
      load: (id) => texts.get(id),
    },
  ],
})
await bundle.write({
  dir: 'dist',
  format: 'es',
  compact: true,
  chunkFileNames: 'parts/[name].js',
  manualChunks: together,
  onlyExplicitManualChunks: true,
})
