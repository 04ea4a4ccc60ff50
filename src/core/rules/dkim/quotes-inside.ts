import type { TextRule } from '../shared/text-rules.ts'
import { TEST_KEY } from './examples.ts'
import type { KeyReading } from './reading.ts'

export const dkimQuotesInside: TextRule<KeyReading> = {
  code: 'dkim/quotes-inside',
  severity: 'error',
  source: 'RFC 1035 §5.1',
  title: 'DKIM key record with quotes inside the value',
  why: 'The value was pasted with its quotes, or in two quoted strings, into a form that adds quotes itself. The quotes are now part of the key.',
  remedy: 'Write the value without quotes inside.',
  effect: 'Verifiers read the quotes as part of the value: signatures with this selector fail.',
  silences: ['txt/stray-quotes'],
  bad: [`s1._domainkey TXT "\\"v=DKIM1; k=ed25519; p=${TEST_KEY}\\""`],
  good: [`s1._domainkey TXT "v=DKIM1; k=ed25519; " "p=${TEST_KEY}"`],
}
