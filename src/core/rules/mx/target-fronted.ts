import { TYPE } from '../../records/types.ts'
import { FRONTS, targetFronted } from '../shared/target-public.ts'

export const mxTargetFronted = targetFronted({
  type: TYPE.MX,
  code: 'mx/target-fronted',
  bad: [
    { zones: { 'hollowmere.example': '@ MX 10 mail\nmail A 203.0.113.7' }, around: FRONTS },
    { zones: { 'hollowmere.example': '@ MX 10 eu.edge.northlight.example.' }, around: FRONTS },
  ],
  good: [{ zones: { 'hollowmere.example': '@ MX 10 mail\nmail A 192.0.2.25\nwww A 203.0.113.7' }, around: FRONTS }],
})
