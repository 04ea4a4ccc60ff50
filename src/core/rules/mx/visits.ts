/** Who receives a domain's mail: null MX, fallbacks, and what an exchange must not be. */
import type { RecordId, Zones } from '../../model/zones.ts'
import { ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { mx } from '../../records/views.ts'
import type { Rule, SetView, SetVisit } from '../rule.ts'

export const isNull = (zones: Zones, record: RecordId): boolean => zones.target(record) === ROOT

export const preference = (zones: Zones, record: RecordId): number => mx(zones.rdata(record)).preference

/** The exchanges of a set, null MX left away. */
export const exchanges = (zones: Zones, set: SetView): RecordId[] =>
  set.records.filter((record) => !isNull(zones, record))

/** A rule about MX sets. */
export const onMx = (when: number, visit: SetVisit): Rule['visit'] => ({ set: { [TYPE.MX]: { when, visit } } })

/** Labels of hosts that are set up for mail, at which people write what belongs to the domain. */
export const MAIL_HOSTS = ['mail', 'mx', 'smtp']
