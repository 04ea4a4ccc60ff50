import { isCatalogZone } from '../../knowledge/catalog-zone.ts'
import { ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { strings } from '../../records/views.ts'
import type { Rule } from '../rule.ts'
import { catalogZone } from '../shared/catalog-example.ts'

export const catalogVersion: Rule = {
  code: 'catalog/version',
  severity: 'error',
  source: 'RFC 9432 §4.2.1',
  title: 'catalog zone whose version is not 2',
  why: 'A catalog zone says by one TXT record at “version” how it is to be read. Servers do not process one whose version they do not know, or that states several.',
  remedy: 'State version 2, once.',
  bad: [catalogZone('version TXT "3"\na.zones PTR lakepass.example.'), catalogZone('version TXT "2"\nversion TXT "1"')],
  good: [catalogZone('version TXT "2"\na.zones PTR lakepass.example.'), 'version TXT "3.1"'],
  visit: {
    set: {
      [TYPE.TXT](set, cx) {
        const { zones } = cx
        const { owner, zone } = set
        if (owner === ROOT || zones.tree.parent(owner) !== zone.apex || !isCatalogZone(zones, zone)) return
        if (cx.name(owner) !== `version.${cx.name(zone.apex)}`) return
        const values = set.records.map((record) => strings(zones.rdata(record)).join(''))
        if (values.length === 1 && values[0] === '2') return
        cx.report({
          record: set.records[0],
          message: `${cx.name(owner)} states ${values.map((value) => `“${value}”`).join(' and ')}`,
          effect: `${values.includes('2') ? 'Some servers' : 'Servers'} that read this catalog do not process it: they take up no new zones.`,
          fix: [`${cx.name(owner)} TXT "2"`],
        })
      },
    },
  },
}
