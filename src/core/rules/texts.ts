/** Lists of texts that are written once and read in about the same order: with a packing, many take few octets. */

/** How texts are made small; handed in, since most checks have no use for it. */
export interface Packing {
  pack(text: string): Uint8Array
  unpack(octets: Uint8Array): string
}

/** So many lists are packed together. */
const TOGETHER = 512
/** So many packs are held open: rules report at different times what is read side by side. */
const OPEN = 64

export class Texts {
  private readonly packing: Packing | undefined
  private readonly packed: Uint8Array[] = []
  private last: string[] = []
  /** The packs that were read last, the latest at the end. */
  private readonly open = new Map<number, string[]>()

  constructor(packing?: Packing) {
    this.packing = packing
  }

  /** Takes a list; the first has the number 0. */
  add(list: readonly string[]): void {
    this.last.push(JSON.stringify(list))
    if (!this.packing || this.last.length < TOGETHER) return
    this.packed.push(this.packing.pack(this.last.join('\n')))
    this.last = []
  }

  at(index: number): string[] {
    const packed = this.packed.length * TOGETHER
    return JSON.parse(
      index < packed ? this.opened(Math.floor(index / TOGETHER))[index % TOGETHER]! : this.last[index - packed]!,
    )
  }

  private opened(pack: number): string[] {
    const lists = this.open.get(pack) ?? this.packing!.unpack(this.packed[pack]!).split('\n')
    this.open.delete(pack)
    this.open.set(pack, lists)
    if (this.open.size > OPEN) this.open.delete(this.open.keys().next().value!)
    return lists
  }
}
