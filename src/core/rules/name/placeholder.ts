import type { RecordId } from '../../model/zones.ts'
import { type NameId, NONE, ROOT } from '../../names/tree.ts'
import { rowOf, TYPE, typeText } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import type { Context, Part, Rule } from '../rule.ts'
import { MAYBE_PLACEHOLDER } from '../traits.ts'

/** Labels that a template leaves for the reader to fill in. */
const LEFT_LABEL =
  /^(?:your-?(?:domain|company|host|name|site|server|selector)(?:-?name)?|(?:my|the)-?domain(?:-?name)?|todo|fixme|changeme|placeholder|<.*>|%s|\[.*\]|\{\{.*\}\})$/

/** The same as words of a value, `example.com` and `x.x.x.x` with them. Letters and digits around, as in base64, make it another word. */
const LEFT_WORD =
  /(?<![A-Za-z0-9+/_-])(?:your-?(?:domain|company|host|site|server|selector)(?:-?name)?\b|(?:my|the)-?domain(?:-?name)?\b|TODO|FIXME|CHANGEME|<[A-Za-z][A-Za-z0-9 ._-]*>|%s\b|example\.(?:com|net|org)|x\.x\.x\.x|xxx?\.xxx?\.xxx?\.xxx?|\{\{[^{}]*\}\})(?![A-Za-z0-9+/=_])/

/** The first word of a text that a template left; a name with all its labels. */
function leftWord(text: string): string | undefined {
  const match = LEFT_WORD.exec(text)
  if (!match) return undefined
  let from = match.index
  if (match[0].startsWith('example'))
    while (from > 0 && match.index - from < 255 && /[a-z0-9.-]/.test(text[from - 1]!)) from--
  return text.slice(from, match.index + match[0].length)
}

/** What such a label begins with, by octet. */
const FIRSTS = Uint8Array.from({ length: 256 }, (_, i) => Number('ymtfcp<%[{'.includes(String.fromCharCode(i))))

export const namePlaceholder: Rule = {
  code: 'name/placeholder',
  severity: 'warning',
  source: 'practice; RFC 2606 §3',
  title: 'template placeholder left in an owner or a value',
  why: 'Instructions contain blanks to fill in. A placeholder that is left in points nowhere, or to somebody else.',
  remedy: 'Replace it with the real value.',
  silences: [
    'cname/target-missing',
    'mx/target-without-address',
    'srv/target-without-address',
    'name/not-a-host-name',
    'name/doubled-zone',
    'name/final-dot-missing',
    'spf/syntax',
    'spf/include-without-record',
    'dkim/key-unreadable',
    'dmarc/report-address',
  ],
  bad: [
    'www CNAME yourdomain.northlight.example.',
    '@ TXT "v=spf1 include:example.com -all"',
    'key TXT "proof=<your code>"',
    'todo A 192.0.2.10',
    '@ TXT "ferry-proof=%s"',
    '@ TXT "v=spf1 ip4:x.x.x.x -all"',
    '@ MX 10 mx.example.net.',
  ],
  good: [
    's1._domainkey TXT "v=DKIM1; k=ed25519; p=TODOyourdomainxAAABBBBCCCCDDDDEEEEFFFFGGGG0="',
    '@ TXT "v=spf1 exists:%{i}._spf.%{d2} -all"',
    'method A 192.0.2.10\nwww TXT "mailto:someone@hollowmere.example"',
    'kiosk CNAME site.northlight.example.',
  ],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: MAYBE_PLACEHOLDER,
        visit(set, cx) {
          for (const record of set.records) {
            const word = leftWord(joined(cx.zones.rdata(record)))
            if (word !== undefined) say(cx, record, 0, word)
          }
        },
      },
    },
    finish(cx) {
      const { zones } = cx
      const { tree } = zones
      const left = new Set<NameId>()
      const look = (name: NameId): void => {
        if (name > ROOT && FIRSTS[tree.labelOctet(name, 0)] && LEFT_LABEL.test(tree.labelText(name))) left.add(name)
      }
      if (cx.isAbout(ROOT)) cx.eachName(look)
      for (const suffix of ['com', 'net', 'org']) {
        const name = exampleBelow(cx, suffix)
        if (name !== NONE) left.add(name)
      }
      if (left.size === 0 && cx.isAbout(ROOT)) return
      const seen = new Set<NameId>()
      const find = (name: NameId, record: RecordId, part: Part): void => {
        for (let here = name; here > ROOT; here = tree.parent(here)) {
          if (!cx.isAbout(ROOT)) look(here)
          if (!left.has(here) || zones.zoneOf(here)?.apex === here || seen.has(name)) continue
          seen.add(name)
          say(
            cx,
            record,
            part,
            tree.labelText(here) === 'example' ? cx.name(here).replace(/\.$/, '') : tree.labelText(here),
          )
        }
      }
      cx.eachRecord((record) => {
        find(zones.owner(record), record, 'owner')
        if (zones.target(record) !== NONE) find(zones.target(record), record, rowOf(zones.type(record))!.target!)
      })
    },
  },
}

/** `example.com` and the like, where a record speaks of them and they are no kept zone. */
function exampleBelow(cx: Context, suffix: string): NameId {
  const octets = Uint8Array.from(`${suffix}example`, (sign) => sign.charCodeAt(0))
  const top = cx.zones.tree.find(ROOT, octets, 0, suffix.length)
  const name = top === NONE ? NONE : cx.zones.tree.find(top, octets, suffix.length, octets.length)
  return name !== NONE && cx.zones.zoneOf(name) === undefined ? name : NONE
}

function say(cx: Context, record: RecordId, part: Part, word: string): void {
  cx.report({
    record,
    part,
    message: `“${word}” in ${cx.name(cx.zones.owner(record))} ${typeText(cx.zones.type(record))} is a placeholder from a template`,
    effect: 'It was to be replaced with a real value.',
    fix: [`replace ${word} with the real value`],
  })
}
