/** Placeholders in instructions: words that stand for something that only the reader knows. */

export interface Blank {
  /** As it stands. */
  text: string
  /** What `--fill` calls it; undefined for the reader’s own domain. */
  name?: string
}

const OWN =
  /\b(?:your|my|the)?[-_ ]?(?:own)?[-_ ]?domain(?:name)?[-_.](?:com|net|org|tld|example|de|co\.uk)\b|\b(?:yourdomain|your-domain|your_domain|mydomain|yourcompany|yoursite|domain|customerdomain|customer-domain)\.(?:com|net|org|tld|example|de|io|eu)\b|\b(?:ihre?|deine|meine)-?domain\.(?:de|at|ch|com|tld|example)\b|\b(?:votre|mon)-?domaine\.(?:fr|com|tld|example)\b|\b(?:su|tu|mi)-?dominio\.(?:es|com|tld|example)\b|\b(?:tuo|mio|vostro)-?dominio\.(?:it|com|tld|example)\b|\b(?:uw|jouw|mijn)-?domein\.(?:nl|be|com|tld|example)\b|\b(?:seu|meu)-?dominio\.(?:pt|br|com|com\.br|tld|example)\b|\b(?:twoja|moja)-?domena\.(?:pl|com|tld|example)\b|\bexample\.(?:com|org|net)\b/gi
const MARKED =
  /\{\{\s{0,4}([\w.-](?:[\w .-]{0,38}[\w.-])?)\s{0,4}\}\}|\$\{\s{0,4}([\w.-](?:[\w .-]{0,38}[\w.-])?)\s{0,4}\}|\{\s{0,4}([A-Za-z](?:[\w .-]{0,38}[\w.-])?)\s{0,4}\}|<\s{0,4}([A-Za-z](?:[\w .'-]{0,38}[\w.'-])?)\s{0,4}>|%([A-Za-z][A-Za-z0-9_-]{1,39})%|\[\s{0,4}([A-Za-z](?:[\w .'-]{0,38}[\w.'-])?)\s{0,4}\]|\b(YOUR[-_][A-Z0-9_-]{2,40})\b/g
const ADDRESS = /\b(?:x{1,3}\.){3}x{1,3}\b|\b(?:n{1,3}\.){3}n{1,3}\b|\b(?:your|server)[-_ ]ip(?:[-_ ]address)?\b/gi
const CROSSES = /\bX{6,}\b/g
/** Words in braces that mean the reader’s own domain. */
const OWN_WORDS =
  /^(?:the|your|my|ihre|votre|tu|su|uw|customer)?[-_ .]?(?:own)?[-_ .]?(?:domain|domainname|domain[-_ ]name|zone|fqdn|domaine|dominio|domein|root[-_ ]domain|mail[-_ ]?domain|custom[-_ ]domain|hostname[-_ ]zone)(?:[-_ .]?name)?$/i

/** The placeholders of a text, in its order. Macros of SPF (`%{i}`) and addresses in brackets are none. */
export function blanksIn(text: string): (Blank & { at: number })[] {
  if (text.length > 8000) return []
  const found: (Blank & { at: number })[] = []
  const add = (at: number, blank: Blank): void => {
    if (!found.some((each) => at < each.at + each.text.length && each.at < at + blank.text.length))
      found.push({ at, ...blank })
  }
  for (const match of text.matchAll(MARKED)) {
    const word = match
      .slice(1)
      .find((each) => each !== undefined)!
      .trim()
    // A macro of SPF has a percent sign before its brace.
    if (match[3] !== undefined && text[match.index - 1] === '%') continue
    if (match[4] !== undefined && HTML.test(word)) continue
    add(
      match.index,
      OWN_WORDS.test(word) ? { text: match[0] } : { text: match[0], name: word.replace(/[\s.']+/g, '-') },
    )
  }
  for (const match of text.matchAll(ADDRESS)) add(match.index, { text: match[0], name: 'address' })
  for (const match of text.matchAll(CROSSES)) add(match.index, { text: match[0], name: 'value' })
  for (const match of text.matchAll(OWN)) add(match.index, { text: match[0] })
  return found.sort((a, b) => a.at - b.at)
}

const HTML = /^(?:blank|empty|leer|vide|br|p|b|i|a|div|span|td|tr|th|table)$/i

/** Fills in blanks: the reader’s own domain, and what is given by name. What is left is returned. */
export class Fills {
  private readonly domain: string
  private readonly given: ReadonlyMap<string, string>
  private readonly places = new Map<string, number>()
  /** The names that texts have asked for. */
  readonly asked = new Set<string>()

  constructor(domain: string, given: ReadonlyMap<string, string>) {
    this.domain = domain
    this.given = given
  }

  fill(text: string): { text: string; left: { text: string; name: string }[]; cleaned: string[] } {
    const left: { text: string; name: string }[] = []
    const cleaned: string[] = []
    let made = ''
    let at = 0
    for (const blank of blanksIn(text)) {
      const name = blank.name === undefined ? undefined : this.nameOf(blank.name)
      const value = name === undefined ? this.domain : this.given.get(name)
      if (value === undefined) left.push({ text: blank.text, name: name! })
      else cleaned.push(`${blank.text} filled in: ${value}`)
      made += text.slice(at, blank.at) + (value ?? blank.text)
      at = blank.at + blank.text.length
    }
    return { text: made + text.slice(at), left, cleaned }
  }

  /** Blanks of one text have one name; those that only stand for an address are told apart by their place. */
  private nameOf(name: string): string {
    const counts = name === 'address' || name === 'value'
    const place = (this.places.get(name) ?? 0) + 1
    if (counts) this.places.set(name, place)
    const full = counts && place > 1 ? `${name}${place}` : name
    this.asked.add(full)
    return full
  }
}
