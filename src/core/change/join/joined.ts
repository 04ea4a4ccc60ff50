/** What comes of joining records with those of a zone: changes, what is asked, what cannot be. */
import type { SetChange } from '../../file/edit/changes.ts'
import type { Zone, Zones } from '../../model/zones.ts'
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
}

/** Something with more than one right answer. */
export interface Question {
  about: 'mx' | 'records' | 'alias' | 'policy' | 'delete' | 'replace'
  owner: Name
  type: number
  choices: readonly string[]
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
  readonly changes: SetChange[] = []
  readonly questions: Question[] = []
  readonly conflicts: Conflict[] = []
  readonly notes: string[] = []
  /** What became of each record. */
  readonly became = new Map<Wanted, string>()
  private readonly answers: Answers

  constructor(answers: Answers) {
    this.answers = answers
  }

  /** The answer, where it is one of the choices; else the question stays open. */
  ask(question: Question): string | undefined {
    const answer = this.answers(question)
    if (answer !== undefined && question.choices.includes(answer)) return answer
    this.questions.push(question)
    return undefined
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
  zones: Zones
  zone: Zone
  owner: Name
  type: number
  rows: readonly Wanted[]
  /** The words around them say that they take the place of those that are there, and that was agreed to. */
  isReplaced: boolean
}

/** Puts a change of a set, in place of one that was put before. */
export function put(joined: Joined, change: SetChange, rows: readonly Wanted[], became: string): void {
  const at = joined.changes.findIndex(
    (each) => foldName(each.owner) === foldName(change.owner) && each.type === change.type,
  )
  if (at < 0) joined.changes.push(change)
  else joined.changes[at] = change
  joined.all(rows, became)
}
