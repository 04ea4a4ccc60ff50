import { bare } from '../../../core/names/name.ts'
import { viewText } from '../../call.ts'
import type { Asked, Shown } from './entries.ts'

/** How to bring back what an entry took away: found while entries are gone through, newest first. */
export class WayBack {
  said: string | undefined
  private readonly asked: Asked
  /** The newest entry that took something away, where what stood before it is known by an older one only. */
  private byHand: Shown | undefined

  constructor(asked: Asked) {
    this.asked = asked
  }

  /** `own`: what of the entry is about what is asked for. An edit by hand has no backup from before: the newest older entry, whatever it is about, still had it. */
  take(entry: Shown, own: Shown | undefined): void {
    if (this.said !== undefined) return
    const isData = entry.what !== 'published' && entry.what !== 'confirmation'
    const isSame = this.byHand?.zone === entry.zone && this.byHand.view === entry.view
    if (this.byHand && isData && isSame) this.said = this.textOf(entry, `--as-of ${entry.at}`)
    else if (!this.byHand && isData && own && this.tookAway(own)) {
      if (entry.what === 'edited') this.byHand = entry
      else if (entry.backup !== null && entry.what !== 'adopted')
        this.said = this.textOf(entry, `--from ${shortId(entry.id!)}`)
    }
  }

  /** Whether something of what is asked for stood before it, and was another thing behind it. */
  private tookAway({ sets }: Shown): boolean {
    return this.asked.owner === undefined || sets.some(({ before }) => before !== null)
  }

  private textOf({ zone, view }: Shown, option: string): string {
    const { owner, type } = this.asked
    const of =
      owner === undefined
        ? bare(this.asked.zone ?? zone)
        : `${bare(this.asked.zone!)} ${bare(owner)}.${type ? ` ${type}` : ''}`
    const what = this.byHand ? 'the edit by hand' : 'an entry'
    return `To bring back the state before ${what}: bramblefront restore ${of} ${option}${viewText(view)}`
  }
}

/** What people name an entry by. */
export const shortId = (id: string): string => id.slice(id.lastIndexOf('-') + 1)
