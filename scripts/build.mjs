// Bundles the program and the library into dist/. Each command, and each heavy package, is in a file that loads only when it is used.
import { readFileSync, rmSync } from 'node:fs'
import { resolve } from 'node:path'
import { rolldown } from 'rolldown'

const { version } = JSON.parse(readFileSync('package.json', 'utf8'))
const PROGRAM = 'src/cli/main.ts'
const LIBRARY = 'src/index.ts'

/** Commander can start other programs as its commands. None of ours is one, and loading what starts them is felt. */
const nothingToStart = {
  name: 'nothing-to-start',
  resolveId: (id, from) => (id === 'node:child_process' && /commander/.test(from ?? '') ? '\0nothing' : undefined),
  load: (id) => (id === '\0nothing' ? 'export default {}' : undefined),
}

/** Every file costs a start its share of a millisecond: what checking needs is few files. */
function together(id, modules) {
  if (id.includes('rolldown/runtime') || needed('src/cli/program.ts', modules).has(id)) return 'program'
  if (!needed('src/cli/commands/check.ts', modules).has(id)) return null
  if (!needed(LIBRARY, modules).has(id)) return 'base'
  return needed('src/cli/commands/show.ts', modules).has(id) ? 'core' : 'rules'
}

/** The modules that one loads with itself. */
function needed(module, modules) {
  let found = NEEDED.get(module)
  if (found) return found
  const add = (id) => {
    if (found.has(id)) return
    found.add(id)
    for (const each of modules.getModuleInfo(id)?.importedIds ?? []) add(each)
  }
  NEEDED.set(module, (found = new Set()))
  add(resolve(module))
  return found
}
const NEEDED = new Map()

const bundle = await rolldown({
  input: { bramblefront: PROGRAM, index: LIBRARY },
  platform: 'node',
  // CommonJS packages that look at their own place on disk; loaded only when something is written, or waited for.
  external: ['cli-progress'],
  transform: {
    target: 'node20',

    define: { BRAMBLEFRONT_VERSION: JSON.stringify(version) },
  },
  preserveEntrySignatures: 'allow-extension',
  plugins: [nothingToStart],
})
rmSync('dist', { recursive: true, force: true })
await bundle.write({
  dir: 'dist',
  format: 'esm',
  minify: { compress: true, mangle: false, codegen: { removeWhitespace: true } },
  comments: { legal: false },
  entryFileNames: '[name].js',
  chunkFileNames: 'parts/[name]-[hash].js',
  codeSplitting: { includeDependenciesRecursively: false, groups: [{ name: together, debugName: 'together' }] },
})
