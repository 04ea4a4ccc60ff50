/** Whole texts: records in a layout, what people write around them, and one damage. */
import { LAYOUTS, type Language, type Rendered, styleOf } from './layouts.ts'
import { Chance, keyOf, type Meant, records, ZONE } from './records.ts'

export interface Text {
  text: string
  layout: string
  damage: string
  meant: Meant[]
  /** What must come of it, one line a record, sorted. */
  wanted: string[]
}

const BEFORE: Record<Language, string[]> = {
  en: [
    'Hi,',
    'Hello Tamsin,',
    'Thanks for choosing Gullwire!',
    'To finish the setup we need a few changes to your DNS.',
  ],
  de: ['Hallo zusammen,', 'Guten Tag,', 'für die Einrichtung brauchen wir noch ein paar Änderungen am DNS.'],
  fr: ['Bonjour,', 'Voici ce qu’il nous faut pour terminer la mise en service.'],
  es: ['Hola:', 'Para terminar la configuración nos falta lo siguiente.'],
}
const AFTER: Record<Language, string[]> = {
  en: [
    'Best regards,',
    'Kind regards',
    'Cheers',
    'Many thanks in advance!',
    'It can take up to 48 hours.',
    'The Gullwire team',
    'Questions? Call +44 20 7946 0018 or write to support@gullwire.example.',
    'See https://help.gullwire.example/setup for more.',
    'Sent from my phone',
    'Yours sincerely',
    'All the best',
    'Speak soon',
    'Order 4471, 12.00 per month.',
  ],
  de: [
    'Viele Grüße',
    'Mit freundlichen Grüßen',
    'Vielen Dank im Voraus!',
    'Beste Grüße aus dem Hafen',
    'Bei Fragen: 030 23125-0.',
  ],
  fr: ['Cordialement,', 'Bien à vous', 'Merci d’avance !', 'À bientôt'],
  es: ['Un saludo', 'Muchas gracias', 'Atentamente,', 'Quedamos a su disposición.'],
}

type Damage = (made: Rendered, which: number, meant: readonly Meant[], layout: string) => boolean

/** What happens to texts on their way; each leaves less than was meant, or something that was not. False where it does not apply. */
const DAMAGES: Record<string, Damage> = {
  'the value is gone': ({ lines, at }, which, meant) =>
    change(lines, at[which]!, new RegExp(`${escaped(meant[which]!.value)}\\.?`), ''),
  'the value is cut with an ellipsis': ({ lines, at }, which, meant) => {
    const { value } = meant[which]!
    return value.length > 12 && change(lines, at[which]!, value, `${value.slice(0, value.length - 7)}…`)
  },
  // In a table with merged cells an empty type is the one above.
  'the type is gone': ({ lines, at }, which, meant, layout) =>
    layout !== 'empty cells' && change(lines, at[which]!, new RegExp(`(?<![\\w-])${meant[which]!.type}(?![\\w-])`), ''),
  'the type has a letter too many': ({ lines, at }, which, meant) =>
    change(lines, at[which]!, new RegExp(`(?<![\\w-])${meant[which]!.type}(?![\\w-])`), `${meant[which]!.type}Y`),
  'a digit of the address is a letter': ({ lines, at }, which, meant) => {
    const { type, value } = meant[which]!
    return type === 'A' && change(lines, at[which]!, value, value.replace(/1(?=\d*$|\d)/, 'l'))
  },
  'the name is gone': ({ lines, at }, which, meant, layout) => {
    const { owner } = meant[which]!
    // There an empty name is the one above (RFC 1035 §5.1, merged cells).
    const isAbove = ['zone file', 'look-up answers', 'empty cells'].includes(layout)
    const isWord = owner !== '@' && !isAbove
    return isWord && change(lines, at[which]!, new RegExp(`${escaped(owner)}(?:\\.${escaped(ZONE)}\\.?)?`), '')
  },
  'two values where there was one': ({ lines, at }, which, meant) => {
    const { type, value } = meant[which]!
    return (type === 'CNAME' || type === 'MX') && change(lines, at[which]!, value, `${value} other.gullwire.example`)
  },
}

const escaped = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')

function change(lines: string[], at: readonly number[], find: string | RegExp, put: string): boolean {
  const line = at.find((each) => (typeof find === 'string' ? lines[each]!.includes(find) : find.test(lines[each]!)))
  if (line === undefined) return false
  lines[line] = lines[line]!.replace(find, () => put)
  return true
}

/** The text of a seed: by turns undamaged and damaged. */
export function textOf(seed: number, damaged: boolean): Text {
  const chance = new Chance(seed * 7919 + 17)
  const meant = records(chance)
  const layout = chance.one(Object.keys(LAYOUTS))
  const style = styleOf(chance)
  const made = LAYOUTS[layout]!(meant, style)
  let damage = 'none'
  if (damaged) {
    const names = Object.keys(DAMAGES)
    const first = chance.below(names.length)
    const which = chance.below(meant.length)
    for (let i = 0; i < names.length && damage === 'none'; i++) {
      const name = names[(first + i) % names.length]!
      if (DAMAGES[name]!(made, which, meant, layout)) damage = name
    }
  }
  const some = (list: readonly string[]): string[] => list.filter(() => chance.is(0.4))
  const before = layout === 'JSON' ? [] : some(BEFORE[style.language])
  const after = layout === 'JSON' ? [] : some(AFTER[style.language])
  const around = (lines: string[]): string[] => (lines.length > 0 ? [lines.join('\n')] : [])
  return {
    text: [...around(before), made.lines.join('\n'), ...around(after)].join('\n\n'),
    layout,
    damage,
    meant,
    wanted: meant.map(keyOf).sort(),
  }
}
