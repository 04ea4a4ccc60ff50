import type { TextRule } from '../shared/text-rules.ts'
import { GOOD } from './examples.ts'
import type { KeyReading } from './reading.ts'

const RSA1024 =
  'MIGfMA0GCSqGSIb3DQEBAQUAA4GNADCBiQKBgQDwIRP/UC3SBsEmGqZ9ZJW3/DkMoGeLnQg1fWn7/zYtIxN2SnFCjxOCKG9v3b4jYfcTNh5ijSsq631uBItLa7od+v/RtdC2UzJ1lWT947qR+Rcac2gbto/NMqJ0fzfVjH4OuKhitdY9tf6mcwGjaNBcWToIMmPSPDdQPNUYckcQ2QIDAQAB'

export const dkimKeyShort: TextRule<KeyReading> = {
  code: 'dkim/key-short',
  severity: 'warning',
  source: 'RFC 8301 §3.2',
  title: 'an RSA key that is too short, or longer than verifiers must cope with',
  why: 'Verifiers must refuse keys under 1024 bits, signers should use 2048 at the least, and nobody need cope with more than 4096.',
  remedy: 'Make a new key of 2048 bits at another selector, sign with it, and take this one out a week later.',
  effect: {
    error: 'Verifiers must refuse it: signatures with this selector fail.',
    warning: 'Some receivers do not trust it; a key of that size can be broken by those who want to.',
    advice: 'Verifiers that do not cope with it fail the signature.',
  },
  bad: [`s1._domainkey TXT "v=DKIM1; k=rsa; p=${RSA1024}"`],
  good: [GOOD],
}
