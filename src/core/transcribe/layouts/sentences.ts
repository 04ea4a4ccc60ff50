/** Records that are told in sentences: “create a CNAME record for `autoconfig` that points to …”. */
import { isAtOrBelow } from '../../names/name.ts'
import { TYPE } from '../../records/types.ts'
import type { Candidate, Cell } from '../candidate.ts'
import type { Role } from '../labels.ts'
import type { Likely } from '../parts.ts'
import { addressIn, hostIn, isNumber, isWhole, typeIn, unwrapped } from '../values.ts'

const NOUN =
  /^(?:records?|recs?|entry|entries|eintrag|einträge|eintrags|record-?typ|registr?os?|enregistrements?|entrées?|rekord\w*|wpisy?|wpis|post(?:en)?|poster|tietue|bejegyzés|înregistrare|záznam|запись|записи)[.,:;]?$/iu
/** Behind these the name stands. */
const FOR =
  /^(?:for|named?|called|at|on|host|hostname|subdomain|sous-domaine|unterdomain|subdomäne|subdominio|sottodominio|subdomein|für|namens|unter|bei|pour|nommée?|sur|appelée?|para|llamado|en|per|chiamato|su|voor|genaamd|met|naam|dla|för|med|namn|til|na|o|nome|nazwie)$/i
const PREFERENCE = /^(?:priority|prio|preference|pref|priorit\p{L}*|prioridad\p{L}*|prior\p{L}*)[:.]?$/iu
/** What asks for something to be done. */
const ASKS =
  /\b(?:add|adds|adding|create|set|setup|set up|publish|enter|insert|point|points|pointing|make|configure|need|needs|use|update|put|ensure|must|should|require[sd]?|please)\b/i
const ASKS_ELSEWHERE =
  /\b(?:bitte|anlegen|legen|lege|setzen|erstellen|eintragen|hinzufügen|brauchen|benötigen|zeigt|ajoute[rz]?|crée[rz]?|créez|configurez|veuillez|cre[ea]r?|añad[ae]|agreg[ue]e?|agregar|necesita|apunte|aggiung\w+|crea|creare|inserire|toevoegen|voeg|maak|aanmaken|graag|kunt|adicion\w+|crie|criar|dodaj|dodać|utwórz|lägg|skapa|tilføj|opret|legg)\b/iu

/** Whether a type is spoken of as a record, as sentences do. */
export const speaksOfRecords = (words: readonly string[]): boolean =>
  words.some(
    (word, at) =>
      (typeIn(word) !== undefined && (NOUN.test(words[at + 1] ?? '') || (at > 0 && NOUN.test(words[at - 1]!)))) ||
      /^[A-Z]{1,5}-(?:records?|eintr\p{L}+|rekord\p{L}*|post\p{L}*)[.,:]?$/iu.test(word),
  )

/** The records that one sentence asks for, one after another: “an A record for … and a TXT record for …”. */
export function clausesOf(sentence: string): string[] {
  const parts = sentence.split(
    /(?:,\s*)?\s(?:and|und|et|y|e|en|och|og|i|oraz|then|and then|puis|dann|luego|sowie)\s+(?=(?:an?|the|einen?|une?|um|uma|una?|uno|een|ett?|en|et)\s+(?:\p{L}+\s+)?[`"']?[A-Z]{1,6}[`"']?(?:[- ]|$))/u,
  )
  return parts.length > 1 && parts.every((part) => typeOf(wordsIn(part)) !== undefined) ? parts : [sentence]
}

/** Whether a sentence asks for something, and whether it asks for it not to be. */
export const asksIn = (sentence: string): boolean => ASKS.test(sentence) || ASKS_ELSEWHERE.test(sentence)
export const isNegated = (sentence: string): boolean => NEGATED.test(sentence)

/** Parts a line where sentences end; names have no blank behind their dots, and a tab parts cells. */
export const sentencesOf = (text: string): string[] =>
  text.length > 16_384 ? [] : text.split(/(?<=[.!?])[^\S\t]+(?=[\p{Lu}"“¿¡])|(?<=;)\s+(?=\p{L}+(?![\p{L}=]))/u)

/** “Do not add …” states what must not be. */
const NEGATED =
  /(?:^|[^\p{L}])(?:not|never|don't|doesn't|without|no longer|instead of|nicht|kein\p{L}*|niemals|ne|pas|jamais|no|nunca|non|mai|niet|geen|nooit|não|nie|inte|ikke|ei)(?=$|[^\p{L}])/iu

const ARROW = /->|→|=>|⇒|➔|➜/

interface Word {
  text: string
  quoted: boolean
  /** A comma stands behind it. */
  comma: boolean
}

/** A sentence that states one record, or the same of several names; undefined for any other. Where it asks for one that cannot be told, it is `unclear`. */
export function told(
  sentence: string,
  line: number,
  likely: Likely,
  zone: string,
  isAsked = false,
): Candidate[] | 'unclear' | undefined {
  const words = wordsIn(sentence)
  const found = typeOf(words)
  // Notes in a few words need no verb: “A record for shop to 192.0.2.1”.
  const isNote = found?.sure === true && found.at === 0 && words.length <= 14
  const asksSo = isAsked || isNote || asksIn(sentence)
  if (!found || (!found.sure && !asksSo)) return undefined
  const { type, at } = found
  // Two types in one sentence are two records, of which nobody knows what belongs to which.
  const second = typeOf(words.filter((_, i) => i > at))
  if (second && second.type !== type && (found.sure || second.sure) && asksSo) return 'unclear'
  const others = words.filter((_, i) => i !== at)
  const isLed = ARROW.test(sentence) || POINTS.test(sentence) || (isNote && LEADS.test(sentence))
  const value = valueIn(type, sentence, others, likely, zone) ?? (isLed ? lastHost(type, others) : undefined)
  if (value === undefined) return undefined
  // The same type named twice is two records, too.
  if (second && found.sure && second.sure && asksSo) return 'unclear'
  const asks = asksSo || ARROW.test(sentence) || /^[-*•\d]/.test(sentence.trim())
  if (!asks) return undefined
  const owners = ownersOf(others, value, likely, zone)
  if (owners.length === 0 || value === 'several' || NEGATED.test(sentence)) return 'unclear'
  const cells: Cell[] = [
    { text: words[at]!.text, line, role: 'type' },
    { text: value, line, role: 'value' },
  ]
  if (type === TYPE.SRV)
    for (const [role, words] of SERVICE) {
      const number = words.exec(sentence)?.[1]
      if (number !== undefined) cells.push({ text: number, line, role })
    }
  const front = others[others.findIndex(({ text }) => text === value) - 1]?.text ?? ''
  const preference = preferenceOf(sentence) ?? (type === TYPE.MX && /^\d{1,5}$/.test(front) ? front : undefined)
  if (preference !== undefined && type === TYPE.MX) cells.push({ text: preference, line, role: 'priority' })
  // A plain word behind “and” may be another thing to be done, where the sentence does not speak of records.
  const isPlain = (name: string, i: number): boolean => i > 0 && /^[a-z]+$/i.test(name) && !PLURAL.test(sentence)
  return owners.map((owner, i) => ({
    line,
    last: line,
    cells: [...cells, { text: owner, line, role: 'owner' }],
    told: sentence,
    names: owners,
    doubt: isPlain(owner, i) ? `“${owner}” may be one of the names, or none` : undefined,
  }))
}

const PLURAL = /(?:records|entries|einträge|enregistrements|registros|rekordy|poster)(?![\p{L}])/iu

/** Words between a name and where it leads. */
const LEADS = /\s(?:to|auf|nach|vers|verso|naar|para|til|till|na|zu)\s/i

const SERVICE: [Role, RegExp][] = [
  ['priority', /\bpriorit\p{L}{0,12}\s{0,8}(?::\s{0,8})?(\d{1,5})/iu],
  ['weight', /\b(?:weight|gewicht\p{L}{0,12}|poids|peso|waga|vikt)\s{0,8}(?::\s{0,8})?(\d{1,5})/iu],
  ['port', /\b(?:port|puerto|porta|poort)\s{0,8}(?::\s{0,8})?(\d{1,5})/iu],
]

function wordsIn(sentence: string): Word[] {
  const words: Word[] = []
  for (const match of sentence.matchAll(/`([^`]{1,400})`|"([^"]{1,400})"|'([^'\s]{1,200})'|(\S+)/g)) {
    const inner = match[1] ?? match[2] ?? match[3]
    const comma = (match[4] ?? sentence[match.index + match[0].length] ?? '').endsWith(',')
    if (inner !== undefined) words.push({ text: inner, quoted: true, comma })
    else words.push({ text: match[4]!.replace(/(?<![.,;:!?)])[.,;:!?)]+$/, ''), quoted: false, comma })
  }
  return words.filter(({ text }) => text !== '')
}

/** Where a type is named as such: in capitals, with a noun that says that it is one. */
function typeOf(words: readonly Word[]): { type: number; at: number; sure: boolean } | undefined {
  for (const [at, { text, quoted }] of words.entries()) {
    const whole =
      /^\(?([A-Z]{1,6})[-‑]?(?:records?|eintr\p{L}{1,12}|record-?\p{L}{0,12}|rekord\p{L}{0,12}|post\p{L}{0,12})?\)?$/iu.exec(
        text,
      )
    const plain = whole?.[1] ?? ''
    const type = typeIn(plain)
    if (type === undefined || plain !== plain.toUpperCase()) continue
    if (quoted && !NOUN.test(words[at + 1]?.text ?? '')) continue
    const joined = whole![0].replace(/[()]/g, '') !== plain
    const sure =
      joined ||
      NOUN.test(words[at + 1]?.text ?? '') ||
      NOUN.test(words[at - 1]?.text ?? '') ||
      (at > 1 && NOUN.test(words[at - 2]!.text))
    if (sure || type !== TYPE.A) return { type, at, sure }
  }
  return undefined
}

/** Behind these the value stands. */
const VALUE =
  /^(?:value|content|text|wert|inhalt|valeur|contenu|valor|contenido|valore|contenuto|waarde|inhoud|wartość|treść|värde|værdi|verdi):?$/i
const isName = (text: string): boolean => /^(?:@|_.*|.*\..*|.{0,7})$/.test(text)

/** The value that the sentence states: a text of its kind, an address, the one host that is not the owner. */
function valueIn(
  type: number,
  sentence: string,
  words: readonly Word[],
  likely: Likely,
  zone: string,
): string | 'several' | undefined {
  if (type === TYPE.TXT) {
    const quoted =
      words.find(({ text, quoted: q }) => q && /[=\s]/.test(text)) ??
      words.find(({ text, quoted: q }, at) => q && !isName(text) && VALUE.test(words[at - 1]?.text ?? ''))
    if (quoted) return quoted.text
    const start = /\bv=(?:spf1|DMARC1|DKIM1|STSv1|TLSRPTv1)\b/i.exec(sentence)
    const text = start && textFrom(sentence.slice(start.index))
    // “A record that starts with v=spf1” states none.
    if (text) return /[\s;]\S/.test(text) ? text : undefined
    return words.find(({ text }) => /^[\w-]{3,}[=:][\w+/=.-]{4,}$/.test(text) && !/^https?:/i.test(text))?.text
  }
  if (type === TYPE.A || type === TYPE.AAAA) {
    const found = words.filter(({ text }) => addressIn(text)?.octets.length === (type === TYPE.A ? 4 : 16))
    return found.length > 1 ? 'several' : found[0]?.text
  }
  const led = ledTo(words)
  if (led !== undefined) return led
  const hosts = words.filter(({ text }) => {
    const name = hostIn(text)?.name
    return (
      name !== undefined &&
      isWhole(name) &&
      !text.includes('://') &&
      !isAtOrBelow(name.endsWith('.') ? name : `${name}.`, zone)
    )
  })
  const outside = hosts.filter(({ text }) => likely(text) < 1)
  const [value, ...more] = outside.length > 0 ? outside : hosts
  return more.some(({ text }) => text !== value!.text) ? 'several' : value?.text
}

/** Before these words the name stands, and behind them where it leads, whatever both look like. */
const TO = /^(?:to|at|auf|nach|vers|sur|verso|naar|para|a|al|ao|do|na|mot|till|til|pointing|points)$/i

/** Where a sentence says that the name leads: the host behind “pointing to”, or the last one behind “to”. */
function ledTo(words: readonly Word[]): string | undefined {
  const behind = words.filter(({ text }, at) => {
    const name = hostIn(text)?.name
    return at > 0 && name !== undefined && isWhole(name) && !text.includes('://') && TO.test(words[at - 1]!.text)
  })
  const isPointed = (word: Word): boolean => {
    const at = words.indexOf(word)
    return [words[at - 2], words[at + 1], words[at - 1]].some((each) => each && POINTS.test(each.text))
  }
  const pointed = behind.filter(isPointed)
  if (pointed.length > 0) return pointed.length === 1 ? pointed[0]!.text : 'several'
  return undefined
}

/** Where a name leads that is in the zone, too: the last host of the sentence. */
const lastHost = (type: number, words: readonly Word[]): string | undefined =>
  type === TYPE.CNAME || type === TYPE.MX
    ? words.findLast(({ text }) => hostIn(text) !== undefined && isWhole(hostIn(text)!.name))?.text
    : undefined

/** A text that stands unquoted: up to the words that say why. */
function textFrom(rest: string): string {
  const dots = /^v=(?:DMARC1|DKIM1|STSv1|TLSRPTv1)/i.test(rest)
    ? /^v=[^\s;]+;?(?:\s*[a-z]{1,8}=[^\s;]+;?)*/i.exec(rest)
    : /^v=spf1(?:\s+[-+~?]?(?:(?:include|ip4|ip6|a|mx|exists|ptr|redirect|exp)[:=/][^\s,"]+|a|mx|ptr|all)(?=[\s.,;"]|$))*/i.exec(
        rest,
      )
  const text = (dots?.[0] ?? '').replace(/\.$/, '')
  // A key that was wrapped: words of base64 go on, the last one is short.
  const more = /p=[A-Za-z0-9+/]+$/.test(text)
    ? /^(?:\s+[A-Za-z0-9+/]{40,})+(?:\s+[A-Za-z0-9+/]{2,}={0,2}(?=\s|$))?/.exec(rest.slice(text.length))
    : null
  return text + (more?.[0].replace(/\s+/g, '') ?? '')
}

const DOMAIN_ITSELF =
  /(?:^|\s)(?:your|the|ihre|die|der|la|le|il|el|votre|su|tu|vostro|uw|het|de|twojej|din)\s+(?:root |apex |own )?(?:haupt)?(?:domain|domaine|dominio|domein|domeny|domän|domæne)(?=\s|$)/i

/** Words behind which a name or a value stands, and which are none. */
const NO_NAME =
  /^(?:that|which|with|and|to|avec|qui|et|mit|der|und|con|que|y|einen|un|le|la|records?|value|wert|valeur|valor)$/i

/** The name, or the names that “and” joins to it: what stands behind a word for it, in quotes, or is in the zone; none where that is not clear. */
function ownersOf(words: readonly Word[], value: string, likely: Likely, zone: string): string[] {
  const isName = (text: string): boolean => text === '@' || hostIn(text) !== undefined
  const candidates = words
    .map((word, at) => ({ ...word, at, before: words[at - 1]?.text ?? '' }))
    .filter(
      ({ text }) => text !== value && isName(text) && !NOUN.test(text) && !isNumber(text) && !text.includes('://'),
    )
  const inZone = candidates.filter(({ text }) => {
    const name = text === '@' ? undefined : hostIn(text)?.name
    return (
      text === '@' ||
      likely(text) >= 3 ||
      (name !== undefined && isWhole(name) && isAtOrBelow(name.endsWith('.') ? name : `${name}.`, zone))
    )
  })
  // Where the sentence says that something leads to a name, another one is its owner.
  const from = inZone.filter(({ before }) => !TO.test(before))
  const quoted = candidates.filter((each) => each.quoted && likely(each.text) > 0)
  const named = candidates.filter(
    (each) =>
      FOR.test(each.before) &&
      !POINTS.test(each.text) &&
      !NO_NAME.test(each.text) &&
      !/^(?:the|a|an|your|our|this|it|den|die|das|le|la|el|il|de|het|o|die|einen?|une?)$/i.test(each.text) &&
      (!isWhole(each.text) || likely(each.text) >= 1),
  )
  const arrow = candidates.filter(({ at }) => /^(?:->|→|=>|⇒|➔)$/.test(words[at + 1]?.text ?? ''))
  const pick = [arrow, quoted, from, inZone, named].find((list) => list.length > 0)
  if (!pick) return DOMAIN_ITSELF.test(words.map(({ text }) => text).join(' ')) ? ['@'] : []
  const texts = new Set(pick.map(({ text }) => unwrapped(text)))
  const joined = joinedTo(pick[0]!.at, words, (text) => text !== value && isName(text) && likely(text) > 0)
  if (joined.length > 1 && [...texts].every((text) => joined.includes(text))) return joined
  if (texts.size === 1) return [...texts]
  // “for gorsefield.example: shop” names the domain and the name.
  const precise = [...texts].filter((text) => text !== '@' && `${text}.` !== zone)
  return precise.length === 1 ? precise : []
}

const AND = /^(?:and|und|et|y|e|en|och|og|i|sowie|&|\+)$/i

/** Where the word is that a comma or “and” joins to the next one; below 0 where there is none. */
function beforeOf(at: number, words: readonly Word[]): number {
  if (AND.test(words[at - 1]?.text ?? '')) return at - 2
  return words[at - 1]?.comma ? at - 1 : -1
}

/** The names that commas and “and” join to a word, with itself. */
function joinedTo(at: number, words: readonly Word[], isName: (text: string) => boolean): string[] {
  const isOne = (word: Word | undefined): boolean =>
    word !== undefined && isName(word.text) && !NOUN.test(word.text) && !NO_NAME.test(word.text) && !asksIn(word.text)
  let first = at
  for (let before = beforeOf(first, words); before >= 0 && isOne(words[before]); before = beforeOf(first, words))
    first = before
  const joined = [unwrapped(words[first]!.text)]
  for (let i = first; ; ) {
    const isAnd = AND.test(words[i + 1]?.text ?? '')
    const next = isAnd ? i + 2 : i + 1
    if ((!isAnd && !words[i]!.comma) || !isOne(words[next])) return joined
    joined.push(unwrapped(words[next]!.text))
    i = next
  }
}

function preferenceOf(sentence: string): string | undefined {
  const words = sentence
    .replace(/[(),:;"`]/g, ' ')
    .replace(/\.(?=\s|$)/g, ' ')
    .split(/\s+/)
  const at = words.findIndex((word) => PREFERENCE.test(word))
  if (at < 0) return undefined
  return [words[at + 1], words[at + 2], words[at - 1]].find((word) => word !== undefined && /^\d{1,5}$/.test(word))
}

/** The names that a sentence speaks of, where it states no value. */
export const ownersIn = (sentence: string, likely: Likely, zone: string): string[] =>
  ownersOf(wordsIn(sentence), '', likely, zone)

/** Whether a sentence wants a name of the zone to lead somewhere, without a type. */
export function leadsUntyped(sentence: string, likely: Likely, zone: string): boolean {
  const words = wordsIn(sentence)
  const isOurs = (name: string): boolean => isAtOrBelow(name.endsWith('.') ? name : `${name}.`, zone)
  const hosts = words.flatMap(({ text }) => hostIn(text)?.name ?? []).filter(isWhole)
  const address = words.some(({ text }) => addressIn(text) !== undefined)
  const other = POINTS.test(sentence) && hosts.some((name) => !isOurs(name) && likely(name) < 1)
  return asksIn(sentence) && hosts.some(isOurs) && (address || other)
}
const POINTS =
  /(?:^|\s)(?:points?|pointing|pointant|zeigt|zeigen|pointer|pointez|apunt\p{L}+|punta\p{L}*|wskaz\p{L}+|peka\p{L}*)(?=\s|$)/iu

/** Whether a sentence speaks of a record. */
export const namesRecord = (sentence: string): boolean =>
  wordsIn(sentence).some(({ text }) => NOUN.test(text) || /-(?:records?|eintrag|einträge|rekord|post)$/iu.test(text))

/** The type that a sentence names as such. */
export function typeNamed(sentence: string): number | undefined {
  return typeOf(wordsIn(sentence))?.type
}
