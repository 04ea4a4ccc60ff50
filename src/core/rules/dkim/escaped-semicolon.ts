import type { TextRule } from '../shared/text-rules.ts'
import { TEST_KEY } from './examples.ts'
import type { KeyReading } from './reading.ts'

export const dkimEscapedSemicolon: TextRule<KeyReading> = {
  code: 'dkim/escaped-semicolon',
  severity: 'error',
  source: 'RFC 1035 §5.1',
  title: 'DKIM key record with a backslash before a semicolon',
  why: 'The value was entered with escapes in a form that needs none. In a zone file \\; is just a semicolon; here the backslash itself is published.',
  remedy: 'Write the semicolons without backslashes.',
  effect: 'Verifiers read the backslash as part of the value: signatures with this selector fail.',
  bad: [`s1._domainkey TXT "v=DKIM1\\\\; k=ed25519\\\\; p=${TEST_KEY}"`],
  good: [`s1._domainkey TXT "v=DKIM1\\; k=ed25519\\; p=${TEST_KEY}"`],
  inText: ({ text, problems }) =>
    problems
      .filter(({ kind }) => kind === 'escaped-semicolon')
      .map(({ start, end, message }) => ({ start, end, message, whole: text.replace(/\\;/g, ';') })),
}
