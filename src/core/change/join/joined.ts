/** What comes of joining records with those of a zone: changes, what is asked, what cannot be. */
import type { SetChange } from '../../file/edit/changes.ts'
import { setAt, typesAt, type Zone, type Zones } from '../../model/zones.ts'
import { foldName, type Name } from '../../names/name.ts'
import type { Rdata } from '../../records/rdata.ts'
import type { Kind } from '../../transcribe/kinds.ts'

/** A record to be joined. */
export interface Wanted {
  owner: Name
  type: number
  /** Seconds; of a set that is there already, its own TTL stays. */
  ttl?: number
  data: Rdata
  kind: Kind
  /** Why it must not be written as it is. */
  damage?: string
  /** What it depends on, in the words of the text. */
  condition?: string
  /** Why the reading of it is not certain. */
  asked?: string
  /** The other reading, where there are just two. */
  other?: Wanted
  line?: number
  of?: string
}

/** Something with more than one right answer. */
export interface Question {
  about: 'mx' | 'records' | 'alias' | 'policy' | 'delete' | 'replace' | 'excluded' | 'condition' | 'reading'
  owner: Name
  type: number
  choices: readonly string[]
  /** The line that it is about alone, and the text that this is of, where there are several. */
  line?: number
  of?: string
  /** For people. */
  says: string
}

export interface Conflict {
  owner: Name
  type: number
  why: string
  choices?: readonly string[]
}

/** What the words around the records ask for. */
export interface Wish {
  about: 'delete' | 'replace' | 'registrar'
  owner: Name
  type: number
  data?: Rdata
}

/** The answer to a question; undefined where nobody gave one. */
export type Answers = (question: Question) => string | undefined

export class Joined {
  readonly questions: Question[] = []
  readonly conflicts: Conflict[] = []
  /** Of conflicts, what a person can be asked. */
  readonly resolvable: Question[] = []
  readonly notes: string[] = []
  /** What became of each record. */
  readonly became = new Map<Wanted, string>()
  /** Records that were meant in their second reading, and that one. */
  readonly turned = new Map<Wanted, Wanted>()
  private readonly answers: Answers
  private readonly bySet = new Map<string, SetChange>()

  private readonly zones: Zones
  private readonly zone: Zone

  constructor(zones: Zones, zone: Zone, answers: Answers) {
    this.zones = zones
    this.zone = zone
    this.answers = answers
  }

  /** A set as it is with what was changed so far; undefined where there is none. */
  at(owner: Name, type: number): { data: readonly Rdata[] } | undefined {
    const change = this.bySet.get(keyOf({ owner, type }))
    if (!change) return setAt(this.zones, this.zone, owner, type)
    return change.data.length > 0 ? change : undefined
  }

  /** The types at a name, with what was changed so far. */
  typesAt(owner: Name): number[] {
    return [...typesAt(this.zones, this.zone, owner)].filter((type) => this.at(owner, type))
  }

  /** What changes, in the order in which it was first said. */
  get changes(): SetChange[] {
    return [...this.bySet.values()]
  }

  /** Whether a name that had records of a kind is left with none. */
  leavesNone(isOne: (type: number, data: Rdata) => boolean): boolean {
    return this.changes.some(({ owner, type, data }) => {
      const has = (each: Rdata): boolean => isOne(type, each)
      return setAt(this.zones, this.zone, owner, type)?.data.some(has) === true && !data.some(has)
    })
  }

  /** Changes a set, in place of what was said of it before. */
  put(change: SetChange, rows: readonly Wanted[] = [], became = ''): void {
    this.bySet.set(keyOf(change), change)
    this.all(rows, became)
  }

  /** The answer, where it is one of the choices; else the question stays open. */
  ask(question: Question): string | undefined {
    const answer = this.answers(question)
    if (answer !== undefined && question.choices.includes(answer)) return answer
    // Of several rows that ask the same, once.
    if (!this.questions.some((each) => each.says === question.says)) this.questions.push(question)
    return undefined
  }

  /** Whether the first choice, which resolves a conflict, was made; else it may be asked. */
  isResolved(question: Question): boolean {
    if (this.answers(question) === question.choices[0]) return true
    this.resolvable.push(question)
    return false
  }

  all(rows: readonly Wanted[], what: string): void {
    for (const row of rows) this.became.set(row, what)
  }

  conflict(rows: readonly Wanted[], conflict: Conflict): void {
    this.conflicts.push(conflict)
    this.all(rows, 'conflict')
  }
}

/** Records of one owner and type, and where they go. */
export interface Place {
  zone: Zone
  owner: Name
  type: number
  rows: readonly Wanted[]
  /** The words around them say that they take the place of those that are there, and that was agreed to. */
  isReplaced: boolean
}

/** One for each record set. */
export const keyOf = ({ owner, type }: { owner: Name; type: number }): string => `${foldName(owner)} ${type}`
