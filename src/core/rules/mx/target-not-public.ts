import { TYPE } from '../../records/types.ts'
import { targetNotPublic } from '../shared/target-public.ts'

export const mxTargetNotPublic = targetNotPublic({
  type: TYPE.MX,
  code: 'mx/target-not-public',
  bad: ['@ MX 10 mail.local.', '@ MX 10 mail.', '@ MX 10 mail\nmail A 169.254.1.25'],
  good: ['@ MX 10 mail\nmail A 192.0.2.25', { zones: { 'ferries.internal': '@ MX 10 mail\nmail A 10.0.0.25' } }],
})
