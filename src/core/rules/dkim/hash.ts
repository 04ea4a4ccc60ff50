import type { TextRule } from '../shared/text-rules.ts'
import { TEST_KEY } from './examples.ts'
import type { KeyReading } from './reading.ts'

export const dkimHash: TextRule<KeyReading> = {
  code: 'dkim/hash',
  severity: 'error',
  source: 'RFC 8301 §3.1',
  title: 'DKIM key record whose h= allows only SHA-1',
  why: 'Verifiers must not accept SHA-1 any more, and h=sha1 forbids everything else.',
  remedy: 'Remove h=.',
  effect: 'Signatures with this selector fail.',
  bad: [`s1._domainkey TXT "v=DKIM1; h=sha1; k=ed25519; p=${TEST_KEY}"`],
  good: [`s1._domainkey TXT "v=DKIM1; h=sha256; k=ed25519; p=${TEST_KEY}"`],
}
