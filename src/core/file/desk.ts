import { OctetSink } from '../names/octets.ts'
import { TokenCursor } from '../records/tokens.ts'

/** Working memory of one reading. It is kept for the next one: thousands of small zones would otherwise spend their time making it anew. */
export class Desk {
  readonly cursor = new TokenCursor(new Uint8Array(0))
  readonly scratch = new OctetSink(512)
  readonly labelStarts = new Int32Array(128)
  private static readonly free: Desk[] = []

  /** Whoever takes one has it alone until it is given back: an included file is read while its includer is. */
  static take(): Desk {
    return Desk.free.pop() ?? new Desk()
  }
  giveBack(): void {
    this.cursor.forget()
    Desk.free.push(this)
  }
}
