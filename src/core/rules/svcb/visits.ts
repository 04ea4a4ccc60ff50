/** Where other records lead: service bindings, rewriting rules, SPF terms, report addresses, and tops that follow a name. */

import { TYPE } from '../../records/types.ts'
import type { Context, Rule, SetView } from '../rule.ts'

export const onBoth = (visit: (set: SetView, cx: Context) => void): Rule['visit'] => ({
  set: { [TYPE.SVCB]: visit, [TYPE.HTTPS]: visit },
})
