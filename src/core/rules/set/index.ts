import type { Rule } from '../rule.ts'
import { setAnswerOverUdp } from './answer-over-udp.ts'
import { setClassMismatch } from './class-mismatch.ts'
import { setDuplicateRecord } from './duplicate-record.ts'
import { setMixedTtl } from './mixed-ttl.ts'
import { setTtlLong } from './ttl-long.ts'
import { setTtlNotRestored } from './ttl-not-restored.ts'
import { setTtlOutOfRange } from './ttl-out-of-range.ts'
import { setTtlZero } from './ttl-zero.ts'

/** The rules of the family `set/`. */
export const SET: readonly Rule[] = [
  setAnswerOverUdp,
  setClassMismatch,
  setDuplicateRecord,
  setMixedTtl,
  setTtlLong,
  setTtlNotRestored,
  setTtlOutOfRange,
  setTtlZero,
]
