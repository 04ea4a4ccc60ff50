import { TYPE } from '../../records/types.ts'
import { targetIsRoot } from '../shared/target-form.ts'

export const ptrTargetIsRoot = targetIsRoot(
  TYPE.PTR,
  'ptr/target-is-root',
  'RFC 1035 §3.3.12',
  'It says that the address has a name, and names nobody: receivers of mail refuse such hosts.',
  'www PTR .',
  'www PTR mx.larkpost.example.',
)
