/** Texts at one name, each joined by what it is for. */
import { sameKey } from '../../mail/dkim/key.ts'
import { isDmarc, policyFor, readDmarc, strictness, withTags } from '../../mail/dmarc/record.ts'
import { mergeSpf } from '../../mail/spf/merge.ts'
import { isSpf } from '../../mail/spf/record.ts'
import { isSts, isTlsReports } from '../../mail/transport.ts'
import { textData, joined as textOf } from '../../records/views.ts'
import { kindOfText } from '../../transcribe/kinds.ts'
import type { Joined, Place, Wanted } from './joined.ts'

/** The texts of a name as they become: those of a kind that stands once are replaced in their place. */
class Texts {
  readonly texts: string[]
  private readonly before: readonly string[]

  constructor(texts: readonly string[]) {
    this.before = texts
    this.texts = [...texts]
  }

  of(isOne: (text: string) => boolean): string[] {
    return this.texts.filter(isOne)
  }

  /** Makes a text the only one of its kind. */
  only(isOne: (text: string) => boolean, text: string): void {
    const at = this.texts.findIndex(isOne)
    const others = this.texts.filter((each, i) => !isOne(each) || i === at)
    if (at < 0) others.push(text)
    else others[others.findIndex(isOne)] = text
    this.texts.splice(0, this.texts.length, ...others)
  }

  get changed(): boolean {
    return this.texts.length !== this.before.length || this.texts.some((text, i) => text !== this.before[i])
  }
}

export function joinTexts(place: Place, joined: Joined): void {
  const { owner, type, rows } = place
  const present = joined.at(owner, type)
  const texts = new Texts((present?.data ?? []).map(textOf))
  for (const row of rows) {
    const text = textOf(row.data)
    if (texts.texts.includes(text)) joined.all([row], 'already there')
    else JOIN[row.kind]?.(place, row, text, texts, joined) ?? beside(place, row, text, texts, joined)
  }
  if (!texts.changed) return
  const ttls = rows.flatMap(({ ttl }) => (ttl === undefined ? [] : [ttl]))
  joined.put({
    owner,
    type,
    ttl: present || ttls.length === 0 ? undefined : Math.min(...ttls),
    // A text that stays keeps its strings as they are parted.
    data: texts.texts.map(
      (text) =>
        [...(present?.data ?? []), ...rows.map(({ data }) => data)].find((data) => textOf(data) === text) ??
        textData(text),
    ),
  })
}

type Join = (place: Place, row: Wanted, text: string, texts: Texts, joined: Joined) => true

const JOIN: Partial<Record<Wanted['kind'], Join>> = { spf, dmarc, 'dkim-key': key }

/** SPF: one record a name, into which the senders of the other go (RFC 7208 §3.2). */
function spf({ owner, isReplaced }: Place, row: Wanted, text: string, texts: Texts, joined: Joined): true {
  const [first, ...more] = texts.of(isSpf)
  if (first === undefined || isReplaced) {
    texts.only(isSpf, text)
    joined.all([row], first === undefined ? 'added' : 'replaces the SPF record')
    return true
  }
  let merged = first
  for (const other of [...more, text]) {
    const made = mergeSpf(merged, other)
    if ('refused' in made) {
      joined.conflict([row], { owner, type: row.type, why: `the SPF records cannot be merged: ${made.refused}` })
      return true
    }
    merged = made.text
    if (made.otherEnd) joined.notes.push(`${text} ends with ${made.otherEnd}; the existing record’s end is kept.`)
  }
  texts.only(isSpf, merged)
  joined.all([row], merged === first ? 'already covered' : 'merged into the SPF record')
  return true
}

/** DMARC: one policy, never loosened by what somebody hands over. */
function dmarc({ owner, type, isReplaced }: Place, row: Wanted, text: string, texts: Texts, joined: Joined): true {
  const [present] = texts.of(isDmarc)
  if (present === undefined) {
    texts.only(isDmarc, text)
    joined.all([row], 'added')
    return true
  }
  const [old, fresh] = [readDmarc(present).record, readDmarc(text).record]
  const looser =
    (['itself', 'below', 'missing'] as const).some(
      (name) => strictness(policyFor(fresh, name)) < strictness(policyFor(old, name)),
    ) ||
    (fresh.policy === old.policy && fresh.percent < old.percent)
  const uris = [...old.rua, ...fresh.rua].map(({ uri }) => uri)
  const withReports = withTags(present, { rua: [...new Set(uris)].join(',') })
  const reports = fresh.rua.some(({ uri }) => !old.rua.some((each) => each.uri === uri))
  if (looser) {
    joined.conflict([row], {
      owner,
      type,
      why: `it weakens the policy that is there (${present})`,
      choices: ['keep', ...(reports ? ['keep, and add its report address'] : [])],
    })
    return true
  }
  const choices = ['replace', ...(reports ? ['reports'] : []), 'keep']
  const answer = isReplaced
    ? 'replace'
    : joined.ask({
        about: 'policy',
        owner,
        type,
        choices,
        says: `${owner} has a DMARC record already (${present}). Replace it${reports ? ', add the report address only' : ''}, or keep it?`,
      })
  if (answer === 'replace') texts.only(isDmarc, text)
  if (answer === 'reports') texts.only(isDmarc, withReports)
  joined.all(
    [row],
    answer === undefined
      ? 'asked'
      : answer === 'keep'
        ? 'left out'
        : answer === 'reports'
          ? 'its report address added'
          : 'replaces the DMARC record',
  )
  return true
}

/** A key: a selector has one. */
function key({ owner, type, isReplaced }: Place, row: Wanted, text: string, texts: Texts, joined: Joined): true {
  const isKey = (each: string): boolean => kindOfText(each, owner) === 'dkim-key'
  const [present] = texts.of(isKey)
  if (present === undefined || isReplaced) {
    texts.only(isKey, text)
    joined.all([row], present === undefined ? 'added' : 'replaces the key')
  } else if (sameKey(present, text)) joined.all([row], 'already there')
  else
    joined.conflict([row], {
      owner,
      type,
      why: 'the selector is taken by another key',
      choices: ['another name', 'remove the key'],
    })
  return true
}

/** Any other text stands beside those that are there; of MTA-STS and TLS-RPT there is one. */
function beside({ owner, type, isReplaced }: Place, row: Wanted, text: string, texts: Texts, joined: Joined): true {
  const single = [isSts, isTlsReports].find((isOne) => isOne(text))
  const isOld = single && texts.of(single).length > 0
  if (isReplaced || isOld) {
    const answer = isReplaced
      ? 'replace'
      : joined.ask({
          about: 'records',
          owner,
          type,
          choices: ['replace', 'keep'],
          says: `${owner} has such a record already. Replace it?`,
        })
    if (answer === 'replace' && single) texts.only(single, text)
    else if (answer === 'replace')
      texts.texts.splice(
        0,
        texts.texts.length,
        ...texts.texts.filter((each) => row.kind !== kindOfText(each, owner)),
        text,
      )
    joined.all([row], answer === undefined ? 'asked' : answer === 'keep' ? 'left out' : 'replaces what was there')
    return true
  }
  const alone = texts.texts.length === 0
  texts.texts.push(text)
  joined.all([row], alone ? 'added' : 'added beside')
  return true
}
