import type { TextRule } from '../shared/text-rules.ts'
import { TEST_KEY } from './examples.ts'
import type { KeyReading } from './reading.ts'

export const dkimQuotesInside: TextRule<KeyReading> = {
  code: 'dkim/quotes-inside',
  severity: 'error',
  source: 'RFC 1035 §5.1',
  title: 'quotes in the published key',
  why: 'The value was pasted with its quotes, or in two quoted pieces, into a form that quotes by itself. The quotes are then part of the key.',
  remedy: 'Write the value without quotes inside.',
  effect: 'Verifiers read the quotes as part of the value: signatures with this selector fail.',
  silences: ['txt/stray-quotes'],
  bad: [`s1._domainkey TXT "\\"v=DKIM1; k=ed25519; p=${TEST_KEY}\\""`],
  good: [`s1._domainkey TXT "v=DKIM1; k=ed25519; " "p=${TEST_KEY}"`],
}
