/** What is learnt of a vantage while it is asked: whether it knows EDNS, and to what it says nothing. */
import { typeText } from '../core/records/types.ts'

/** Response codes by which servers say that they do not know EDNS: FORMERR, NOTIMP, BADVERS (RFC 6891 §7). */
export const NO_EDNS = new Set([1, 4, 16])

/** Whether it answers questions with EDNS (RFC 6891): some servers refuse them, and some networks drop them. */
export class EdnsSupport {
  /** It answered one. */
  known = false
  private plainOnly = 0

  /** It never did, and answered several times without: it is not tried any more. */
  get missing(): boolean {
    return !this.known && this.plainOnly >= ENOUGH
  }

  answered(plain: boolean): void {
    if (plain) this.plainOnly++
    else this.known = true
  }
}
const ENOUGH = 3

/** A dead server shall not cost each question its full time: after so many in a row without an answer, nothing more is sent for a while. */
const SILENT = 12
const SILENT_MS = 20_000

/** To what it says nothing. One type that is dropped on the way does not condemn the others. */
export class Silence {
  private readonly elapsed: () => number
  private readonly byType = new Map<number, number>()
  private inRow = 0
  private answers = 0
  private last = 0

  /** `elapsed` tells milliseconds. */
  constructor(elapsed: () => number) {
    this.elapsed = elapsed
  }

  answered(type: number): void {
    this.answers++
    if (this.inRow === 0 && this.byType.size === 0) return
    this.inRow = 0
    this.byType.delete(type)
  }

  unanswered(type: number): void {
    this.inRow++
    this.byType.set(type, (this.byType.get(type) ?? 0) + 1)
    this.last = this.elapsed()
  }

  /** Why a question of this type is not sent; undefined where it is. */
  of(type: number): string | undefined {
    if (this.byType.size === 0 || this.elapsed() - this.last >= SILENT_MS) return undefined
    const ofType = this.byType.get(type) ?? 0
    // One that answers for other types may drop this one and a dozen more: a type that was never dropped is asked for.
    const dead = this.inRow >= SILENT && (this.answers === 0 || (this.byType.size > 1 && ofType > 0))
    if (dead) return `no reply to the last ${this.inRow} queries, so this one was not sent`
    return ofType >= SILENT
      ? `no reply to the last ${ofType} queries for ${typeText(type)}, so this one was not sent`
      : undefined
  }
}
