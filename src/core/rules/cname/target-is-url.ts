import { writtenValue } from '../../file/entry.ts'
import { parseAddress } from '../../names/address.ts'
import { ODD_COLON_OR_SLASH } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { ODD_TARGET } from '../traits.ts'

/** A scheme, a port or a path. Labels such as `0/25` (RFC 2317 §4) are no paths. */
function urlPart(written: string): string | undefined {
  if (/^[a-z][a-z0-9+.-]*:\/\//i.test(written)) return 'a URL'
  if (/:\d{1,5}\.?\/?$/.test(written)) return 'a name with a port'
  const slash = written.indexOf('/')
  if (slash > 0 && !written.split('.').every((label) => !label.includes('/') || /^\d+\/\d+$/.test(label)))
    return 'a name with a path'
  return undefined
}

export const cnameTargetIsUrl: Rule = {
  code: 'cname/target-is-url',
  severity: 'error',
  source: 'RFC 1035 §3.3.1',
  title: 'CNAME target with a URL, port or path',
  why: 'A CNAME points to a name. Characters such as “:” and “/” become part of the name, and no such host exists. Ports belong in SRV records; paths are the web server’s job.',
  remedy: 'Keep the host name alone. To send visitors to a page, configure a redirect on the web server.',
  silences: ['cname/target-missing', 'name/final-dot-missing', 'name/doubled-zone'],
  bad: [
    'www CNAME https://site.northlight.example/',
    'www CNAME site.northlight.example:8443',
    'www CNAME site.northlight.example./ferries',
  ],
  good: ['www CNAME site.northlight.example.'],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: ODD_TARGET,
        visit(set, cx) {
          for (const record of set.records) {
            if (!(cx.zones.tree.oddness(cx.zones.target(record)) & ODD_COLON_OR_SLASH)) continue
            const written = writtenValue(cx.zones, record, 0)
            const part = urlPart(written)
            if (!part || parseAddress(written)) continue
            const host = written
              .replace(/^[a-z][a-z0-9+.-]*:\/\//i, '')
              .replace(/[/:][\s\S]*$/, '')
              .replace(/\.$/, '')
            cx.report({
              record,
              part: 0,
              message: `the target of ${cx.name(set.owner)} is ${part}, ${written}; it must be a name`,
              effect: `It is read as the name ${cx.name(cx.zones.target(record))}, which does not exist.`,
              fix: [`${cx.name(set.owner)} CNAME ${host}.`],
            })
          }
        },
      },
    },
  },
}
