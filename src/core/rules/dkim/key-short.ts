import type { TextRule } from '../shared/text-rules.ts'
import { GOOD } from './examples.ts'
import type { KeyReading } from './reading.ts'

const RSA1024 =
  'MIGfMA0GCSqGSIb3DQEBAQUAA4GNADCBiQKBgQDwIRP/UC3SBsEmGqZ9ZJW3/DkMoGeLnQg1fWn7/zYtIxN2SnFCjxOCKG9v3b4jYfcTNh5ijSsq631uBItLa7od+v/RtdC2UzJ1lWT947qR+Rcac2gbto/NMqJ0fzfVjH4OuKhitdY9tf6mcwGjaNBcWToIMmPSPDdQPNUYckcQ2QIDAQAB'

export const dkimKeyShort: TextRule<KeyReading> = {
  code: 'dkim/key-short',
  severity: 'warning',
  source: 'RFC 8301 §3.2',
  title: 'DKIM key record with an RSA key of unsuitable length',
  why: 'Verifiers must reject keys under 1024 bits, signers should use at least 2048, and verifiers need not support more than 4096.',
  remedy: 'Create a 2048-bit key at a new selector, sign with it, and revoke this one a week later.',
  effect: {
    error: 'Verifiers must reject it: signatures with this selector fail.',
    warning: 'Some receivers do not trust it; a key of this size can be broken with enough effort.',
    advice: 'Verifiers that do not support it fail the signature.',
  },
  bad: [`s1._domainkey TXT "v=DKIM1; k=rsa; p=${RSA1024}"`],
  good: [GOOD],
}
