/** A text of YAML: what it holds, and where each part of it stands. */
import { isMap, isScalar, LineCounter, parseDocument, visit } from 'yaml'
import { Trouble } from './trouble.ts'

export type Path = readonly (string | number)[]

/** Nothing that people write is deeper. */
const DEEPEST = 30

/** More mistakes of one text say nothing new. */
const MOST = 20

export class YamlText {
  readonly value: unknown
  readonly lines: string[]
  private readonly document: ReturnType<typeof parseDocument>
  private readonly counter = new LineCounter()
  private readonly file: string

  /** Trouble, with each place, for what is no YAML, and for what could stand for more than is written: references (`*name`), and nesting without end. */
  constructor(text: string, file: string) {
    this.file = file
    this.lines = text.split('\n')
    try {
      this.document = parseDocument(text, { lineCounter: this.counter })
    } catch (error) {
      if (!(error instanceof RangeError)) throw error
      throw new Trouble(`${file}: its lists and entries refer to themselves`)
    }
    const errors = this.document.errors.map(
      ({ pos, message }) => `${this.at(pos[0])}: not YAML: ${message.split(/\n| at line/, 1)[0]}`,
    )
    if (errors.length === 0) errors.push(...this.refused())
    if (errors.length > 0) throw new Trouble(errors.slice(0, MOST).join('\n'))
    this.value = this.document.toJS() ?? {}
  }

  private refused(): string[] {
    const found: string[] = []
    visit(this.document, {
      Node: (_key, _node, path) => {
        if (path.length <= 2 * DEEPEST) return undefined
        found.push(`${this.file}: its lists and entries are nested more than ${DEEPEST} deep`)
        return visit.BREAK
      },
      Alias: (_key, { source, range }) => {
        found.push(
          `${this.at(range?.[0])}: “*${source}” is an alias to another part of the file, which is not supported: repeat that part here`,
        )
      },
    })
    return found
  }

  private at(offset: number | undefined): string {
    if (offset === undefined) return this.file
    const { line, col } = this.counter.linePos(offset)
    return `${this.file}:${line}:${col}`
  }

  /** FILE:LINE:COLUMN of the deepest part of a path that is there. */
  place(path: Path): string {
    for (let n = path.length; n >= 0; n--) {
      const range = this.rangeOf(path.slice(0, n))
      if (range) return this.at(range[0])
    }
    return this.file
  }

  /** Where a part begins and ends; of an entry of a map, from its key on. */
  rangeOf(path: Path): readonly [number, number] | undefined {
    const parent = path.length > 0 ? this.document.getIn(path.slice(0, -1), true) : undefined
    const pair = isMap(parent)
      ? parent.items.find((item) => isScalar(item.key) && item.key.value === path.at(-1))
      : undefined
    const node = (pair?.key ?? this.document.getIn(path, true)) as { range?: [number, number, number] } | undefined
    return node?.range && [node.range[0], node.range[1]]
  }

  /** Line and column of an offset, both from one. */
  lineAt(offset: number): { line: number; column: number } {
    const { line, col } = this.counter.linePos(offset)
    return { line, column: col }
  }
}
