/** The layouts in which people are sent records, each as a function of what is meant: written from how such texts look, and not from what reads them. */
import { type Chance, type Meant, ZONE } from './records.ts'

/** What a layout makes: its lines, and which of them state which record. */
export interface Rendered {
  lines: string[]
  /** By record: the lines that state it, from zero. */
  at: number[][]
}

export type Language = 'en' | 'de' | 'fr' | 'es'
type Word = 'type' | 'name' | 'value' | 'ttl' | 'priority' | 'weight' | 'port'
const LABELS: Record<Language, Record<Word, string[]>> = {
  en: {
    type: ['Type', 'Record type'],
    name: ['Name', 'Host', 'Host name'],
    value: ['Value', 'Content', 'Points to', 'Data'],
    ttl: ['TTL'],
    priority: ['Priority', 'Preference'],
    weight: ['Weight'],
    port: ['Port'],
  },
  de: {
    type: ['Typ', 'Eintragstyp'],
    name: ['Name', 'Hostname', 'Subdomain'],
    value: ['Wert', 'Inhalt', 'Ziel'],
    ttl: ['TTL'],
    priority: ['Priorität'],
    weight: ['Gewichtung'],
    port: ['Port'],
  },
  fr: {
    type: ['Type'],
    name: ['Nom', 'Hôte', 'Sous-domaine'],
    value: ['Valeur', 'Cible', 'Contenu'],
    ttl: ['TTL'],
    priority: ['Priorité'],
    weight: ['Poids'],
    port: ['Port'],
  },
  es: {
    type: ['Tipo'],
    name: ['Nombre', 'Host'],
    value: ['Valor', 'Contenido', 'Destino'],
    ttl: ['TTL'],
    priority: ['Prioridad'],
    weight: ['Peso'],
    port: ['Puerto'],
  },
}

/** In which form this text writes names and values. */
export interface Style {
  chance: Chance
  language: Language
  name: 'relative' | 'full' | 'dotted'
  quotes: boolean
  ttl: boolean
}

export function styleOf(chance: Chance): Style {
  return {
    chance,
    language: chance.one(['en', 'en', 'de', 'fr', 'es'] as const),
    name: chance.one(['relative', 'relative', 'full', 'dotted'] as const),
    quotes: chance.is(0.4),
    ttl: chance.is(0.5),
  }
}

const ownerText = ({ owner }: Meant, { name }: Style): string => {
  const full = owner === '@' ? ZONE : `${owner}.${ZONE}`
  return name === 'relative' ? owner : name === 'full' ? full : `${full}.`
}
const targetText = ({ value }: Meant, { name }: Style): string => (name === 'dotted' ? `${value}.` : value)
/** The value alone, without its numbers. */
const bareValue = (meant: Meant, style: Style): string =>
  meant.type === 'TXT'
    ? style.quotes
      ? `"${meant.value}"`
      : meant.value
    : meant.type === 'CAA'
      ? `${meant.tag} "${meant.value}"`
      : meant.type === 'A' || meant.type === 'AAAA'
        ? meant.value
        : targetText(meant, style)
/** The value as a zone file has it. */
const fullValue = (meant: Meant, style: Style): string => [...meant.numbers, bareValue(meant, style)].join(' ')

const NUMBERS: Partial<Record<Meant['type'], Word[]>> = { MX: ['priority'], SRV: ['priority', 'weight', 'port'] }

/** Columns of a table: those that any of the records needs. */
function columnsOf(all: readonly Meant[], { chance, ttl }: Style): Word[] {
  const numbers = new Set(all.flatMap(({ type }) => NUMBERS[type] ?? []))
  const order: Word[] = chance.one([
    ['type', 'name', 'value'],
    ['name', 'type', 'value'],
    ['type', 'name', 'value'],
  ] as Word[][])
  const own = (['priority', 'weight', 'port'] as const).filter((each) => numbers.has(each))
  const isSplit = own.length > 0 && chance.is(0.6)
  return [...order, ...(isSplit ? own : []), ...(ttl ? (['ttl'] as const) : [])]
}

function cellsOf(meant: Meant, columns: readonly Word[], style: Style): string[] {
  const own = NUMBERS[meant.type] ?? []
  const isSplit = own.length > 0 && own.every((each) => columns.includes(each))
  const isCaa = meant.type === 'CAA'
  return columns.map((column) => {
    if (column === 'type') return meant.type
    if (column === 'name') return ownerText(meant, style)
    if (column === 'value') return isSplit && !isCaa ? bareValue(meant, style) : fullValue(meant, style)
    if (column === 'ttl') return String(meant.ttl)
    const at = own.indexOf(column)
    return isSplit && at >= 0 ? meant.numbers[at]! : ''
  })
}

function table(all: readonly Meant[], style: Style): { heading: string[]; rows: string[][] } {
  const columns = columnsOf(all, style)
  const words = LABELS[style.language]
  return {
    heading: columns.map((each) => style.chance.one(words[each])),
    rows: all.map((each) => cellsOf(each, columns, style)),
  }
}

const oneEach = (heading: readonly string[], rows: readonly string[]): Rendered => ({
  lines: [...heading, ...rows],
  at: rows.map((_, i) => [heading.length + i]),
})

export type Layout = (all: readonly Meant[], style: Style) => Rendered

const pad = (cells: readonly string[], widths: readonly number[]): string =>
  cells
    .map((cell, i) => cell.padEnd(widths[i]!))
    .join('   ')
    .trimEnd()
const widthsOf = (rows: readonly (readonly string[])[]): number[] =>
  rows[0]!.map((_, i) => Math.max(...rows.map((row) => row[i]!.length)))

const csvOf =
  (sign: string): Layout =>
  (all, style) => {
    const { heading, rows } = table(all, style)
    const quoted = (cell: string): string =>
      cell.includes(sign) || cell.includes('"') ? `"${cell.replaceAll('"', '""')}"` : cell
    return oneEach(
      [heading.join(sign)],
      rows.map((row) => row.map(quoted).join(sign)),
    )
  }

/** Blocks of labels; `below`: what a label stands for is on the line below it. */
const blocks =
  (below: boolean): Layout =>
  (all, style) => {
    const words = LABELS[style.language]
    const labels = Object.fromEntries(
      (Object.keys(words) as Word[]).map((each) => [each, style.chance.one(words[each])]),
    ) as Record<Word, string>
    const made: Rendered = { lines: [], at: [] }
    for (const meant of all) {
      const own = NUMBERS[meant.type] ?? []
      const columns: Word[] = ['type', 'name', 'value', ...own, ...(style.ttl ? (['ttl'] as const) : [])]
      const cells = cellsOf(meant, columns, style)
      const from = made.lines.length
      for (const [i, column] of columns.entries())
        if (below) made.lines.push(labels[column], cells[i]!)
        else made.lines.push(`${labels[column]}: ${cells[i]}`)
      made.at.push(made.lines.slice(from).map((_, i) => from + i))
      made.lines.push('')
    }
    return made
  }

type Sentence = (type: string, name: string, value: string, priority: string | undefined) => string
const SENTENCES: Record<Language, { host: Sentence[]; text: Sentence[] }> = {
  en: {
    host: [
      (type, name, value, prio) =>
        `Please create ${/^[AM]/.test(type) ? 'an' : 'a'} ${type} record for ${name} pointing to ${value}${prio ? ` with priority ${prio}` : ''}.`,
      (type, name, value, prio) =>
        `Add a ${type} record named ${name} that points to ${value}${prio ? ` (priority ${prio})` : ''}.`,
    ],
    text: [(type, name, value) => `Add a ${type} record for ${name} with the value "${value}".`],
  },
  de: {
    host: [
      (type, name, value, prio) =>
        `Bitte legen Sie für ${name} einen ${type}-Eintrag an, der auf ${value} zeigt${prio ? `, Priorität ${prio}` : ''}.`,
    ],
    text: [(type, name, value) => `Bitte legen Sie für ${name} einen ${type}-Eintrag mit dem Wert "${value}" an.`],
  },
  fr: {
    host: [
      (type, name, value, prio) =>
        `Merci de créer un enregistrement ${type} pour ${name} pointant vers ${value}${prio ? `, priorité ${prio}` : ''}.`,
    ],
    text: [(type, name, value) => `Merci de créer un enregistrement ${type} pour ${name} avec la valeur "${value}".`],
  },
  es: {
    host: [
      (type, name, value, prio) =>
        `Por favor, cree un registro ${type} para ${name} que apunte a ${value}${prio ? ` con prioridad ${prio}` : ''}.`,
    ],
    text: [(type, name, value) => `Cree un registro ${type} para ${name} con el valor "${value}".`],
  },
}

const TELLABLE = new Set(['A', 'AAAA', 'CNAME', 'MX', 'TXT', 'NS'])

function sentence(meant: Meant, style: Style): string {
  if (!TELLABLE.has(meant.type)) return `${meant.type} ${ownerText(meant, style)} ${fullValue(meant, style)}`
  const { host, text } = SENTENCES[style.language]
  const name = ownerText(meant, style)
  const quoted = style.quotes && name !== '@' ? `"${name}"` : name
  const value = meant.type === 'TXT' ? meant.value : bareValue(meant, style).replace(/\.$/, '')
  return style.chance.one(meant.type === 'TXT' ? text : host)(meant.type, quoted, value, meant.numbers[0])
}

/** The values of one name below a sentence that says which. */
const grouped: Layout = (all, style) => {
  const made: Rendered = { lines: [], at: all.map(() => []) }
  const says: Record<Language, (name: string) => string> = {
    en: (name) => `For ${name}:`,
    de: (name) => `Für ${name}:`,
    fr: (name) => `Pour ${name} :`,
    es: (name) => `Para ${name}:`,
  }
  for (const owner of new Set(all.map((each) => each.owner))) {
    made.lines.push(says[style.language](owner === '@' ? ZONE : `${owner}.${ZONE}`))
    for (const [i, meant] of all.entries())
      if (meant.owner === owner) {
        made.at[i]!.push(made.lines.length)
        made.lines.push(`  ${meant.type}  ${fullValue(meant, style)}`)
      }
    made.lines.push('')
  }
  return made
}

export const LAYOUTS: Record<string, Layout> = {
  sentences: (all, style) => {
    const rows = all.map((each) => sentence(each, style))
    return {
      lines: rows.flatMap((row) => [row, '']),
      at: rows.map((_, i) => [2 * i]),
    }
  },
  'running text': (all, style) => {
    const rows = all.map((each) => sentence(each, style))
    return oneEach([], rows)
  },
  'numbered steps': (all, style) =>
    oneEach(
      [],
      all.map((each, i) => `${i + 1}. ${sentence(each, style)}`),
    ),
  'label blocks': blocks(false),
  'labels above': blocks(true),
  'labels in one line': (all, style) => {
    const words = LABELS[style.language]
    return oneEach(
      [],
      all.map((meant) => {
        const own = NUMBERS[meant.type] ?? []
        const columns: Word[] = ['type', 'name', ...own, 'value']
        const cells = cellsOf(meant, columns, style)
        return columns.map((each, i) => `${words[each][0]}: ${cells[i]}`).join(', ')
      }),
    )
  },
  'one cell a line with buttons': (all, style) => {
    const { heading, rows } = table(all, style)
    const made: Rendered = { lines: [...heading], at: [] }
    for (const row of rows) {
      const from = made.lines.length
      for (const cell of row) made.lines.push(cell === '' ? '-' : cell, ...(style.chance.is(0.3) ? ['Copy'] : []))
      made.at.push(made.lines.slice(from).map((_, i) => from + i))
    }
    return made
  },
  arrows: (all, style) =>
    oneEach(
      [],
      all.map(
        (meant) =>
          `${style.quotes ? '- ' : ''}${meant.type} ${ownerText(meant, style)} ${style.chance.one(['->', '→', '=>'])} ${fullValue(meant, { ...style, quotes: true })}`,
      ),
    ),
  tabs: (all, style) => {
    const { heading, rows } = table(all, style)
    return oneEach(
      [heading.join('\t')],
      rows.map((row) => row.join('\t')),
    )
  },
  'tabs without a heading': (all, style) => {
    const order = style.chance.one([
      ['type', 'name', 'value'],
      ['name', 'type', 'value'],
    ] as Word[][])
    return oneEach(
      [],
      all.map((each) => cellsOf(each, order, style).join('\t')),
    )
  },
  bars: (all, style) => {
    const { heading, rows } = table(all, style)
    const line = (cells: readonly string[]): string => `| ${cells.join(' | ')} |`
    return oneEach([line(heading), `|${heading.map(() => '---').join('|')}|`], rows.map(line))
  },
  commas: csvOf(','),
  semicolons: csvOf(';'),
  aligned: (all, style) => {
    const { heading, rows } = table(all, style)
    const filled = rows.map((row) => row.map((cell) => cell || '-'))
    const widths = widthsOf([heading, ...filled])
    return oneEach(
      [pad(heading, widths)],
      filled.map((row) => pad(row, widths)),
    )
  },
  'empty cells': (all, style) => {
    const sorted = [...all].map((meant, i) => ({ meant, i })).sort((a, b) => (a.meant.type < b.meant.type ? -1 : 1))
    const words = LABELS[style.language]
    const made: Rendered = { lines: [`${words.type[0]}\t${words.name[0]}\t${words.value[0]}`], at: all.map(() => []) }
    let before = ''
    for (const { meant, i } of sorted) {
      made.at[i] = [made.lines.length]
      made.lines.push(
        `${meant.type === before ? '' : meant.type}\t${ownerText(meant, style)}\t${fullValue(meant, style)}`,
      )
      before = meant.type
    }
    return made
  },
  'spanning cells': (all, style) => {
    const words = LABELS[style.language]
    const lines = ['<table>', `<tr><th>${words.name[0]}</th><th>${words.type[0]}</th><th>${words.value[0]}</th></tr>`]
    const at: number[][] = all.map(() => [])
    for (const owner of new Set(all.map((each) => each.owner))) {
      const own = all.flatMap((meant, i) => (meant.owner === owner ? [{ meant, i }] : []))
      for (const [n, { meant, i }] of own.entries()) {
        at[i]!.push(lines.length)
        const first = n === 0 ? `<td rowspan="${own.length}">${ownerText(meant, style)}</td>` : ''
        lines.push(
          `<tr>${first}<td>${meant.type}</td><td>${fullValue(meant, style).replaceAll('"', '&quot;')}</td></tr>`,
        )
      }
    }
    return { lines: [...lines, '</table>'], at }
  },
  'quoted mail': (all, style) => {
    const { heading, rows } = table(all, style)
    const widths = widthsOf([heading, ...rows.map((row) => row.map((cell) => cell || '-'))])
    const line = (cells: readonly string[]): string =>
      `> ${pad(
        cells.map((cell) => cell || '-'),
        widths,
      )}`
    return oneEach([line(heading)], rows.map(line))
  },
  'zone file': (all, style) =>
    oneEach(
      [`$ORIGIN ${ZONE}.`, '$TTL 3600'],
      all.map((meant) => {
        const value = fullValue(meant, { ...style, name: 'dotted', quotes: true })
        return `${ownerText(meant, { ...style, name: 'relative' })}\t${style.ttl ? `${meant.ttl}\t` : ''}IN\t${meant.type}\t${value}`
      }),
    ),
  'look-up answers': (all, style) =>
    oneEach(
      [],
      all.map((meant) => {
        const dotted: Style = { ...style, name: 'dotted', quotes: true }
        return `${ownerText(meant, dotted)}\t\t${meant.ttl}\tIN\t${meant.type}\t${fullValue(meant, dotted)}`
      }),
    ),
  JSON: (all, style) => {
    const lines = ['[']
    const at: number[][] = []
    for (const [i, meant] of all.entries()) {
      at.push([lines.length])
      const body = { type: meant.type, name: ownerText(meant, style), value: fullValue(meant, style), ttl: meant.ttl }
      lines.push(`  ${JSON.stringify(body)}${i < all.length - 1 ? ',' : ''}`)
    }
    return { lines: [...lines, ']'], at }
  },
  'under their names': grouped,
  'wrapped values': (all, style) => {
    const words = LABELS[style.language]
    const width = 24 + style.chance.below(30)
    const heads = [words.type[0]!, words.name[0]!, words.value[0]!]
    const owners = all.map((each) => ownerText(each, style))
    const first = Math.max(8, ...heads.slice(0, 1).map(({ length }) => length)) + 2
    const second = Math.max(...owners.map(({ length }) => length), heads[1]!.length) + 2
    const made: Rendered = { lines: [`${heads[0]!.padEnd(first)}${heads[1]!.padEnd(second)}${heads[2]}`], at: [] }
    for (const [i, meant] of all.entries()) {
      const pieces = wrapped(fullValue(meant, style), width)
      made.at.push(pieces.map((_, n) => made.lines.length + n))
      for (const [n, piece] of pieces.entries())
        made.lines.push(
          n === 0
            ? `${meant.type.padEnd(first)}${owners[i]!.padEnd(second)}${piece}`
            : `${' '.repeat(first + second)}${piece}`,
        )
    }
    return made
  },
}

/** A value in lines of a width: parted at blanks, and inside where there is none. */
function wrapped(value: string, width: number): string[] {
  const lines: string[] = []
  let rest = value
  while (rest.length > width) {
    const blank = rest.lastIndexOf(' ', width)
    const at = blank > 0 ? blank : rest.length - width > 4 && /^[A-Za-z0-9+/=]{60,}/.test(rest) ? width : rest.length
    if (at >= rest.length) break
    lines.push(rest.slice(0, at))
    rest = rest.slice(at).trimStart()
  }
  return [...lines, rest]
}
