// Bundles the program and the library into dist/. Code splitting keeps each command, and each heavy package, in a file that loads only when used.
import { readFileSync, rmSync, writeFileSync } from 'node:fs'
import { build } from 'esbuild'

const { version } = JSON.parse(readFileSync('package.json', 'utf8'))

rmSync('dist', { recursive: true, force: true })
const BANNER = "import{createRequire as __cr}from'node:module';const require=__cr(import.meta.url);"

const { metafile } = await build({
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
  // CommonJS packages that look at their own place on disk; loaded only when something is written, or waited for.
  external: ['cli-progress', 'proper-lockfile', 'write-file-atomic'],
  define: { BRAMBLEFRONT_VERSION: JSON.stringify(version) },
  // CommonJS packages call require() for Node's own modules; an ES module has none unless it is made.
  banner: { js: BANNER },
  metafile: true,
})

// Only files that speak of require need it: making one for each of them is felt at every start.
for (const file of Object.keys(metafile.outputs)) {
  const text = readFileSync(file, 'utf8')
  const rest = text.replace(BANNER, '')
  if (!/\brequire\b/.test(rest)) writeFileSync(file, rest)
}
