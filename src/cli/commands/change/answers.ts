/** Answers to questions that were given with the call, and how each is given. */
import type { Answers, Question } from '../../../core/change/join/joined.ts'
import { type Name, relativeName } from '../../../core/names/name.ts'
import { typeText } from '../../../core/records/types.ts'
import { standText } from '../../../core/transcribe/instructions.ts'
import { Trouble } from '../../../workspace/trouble.ts'

/** What a question is called in a call: its line where it is about one, else its record set, as the zone has it. */
const keyOf = ({ owner, type, line, of }: Question, zone: Name): string =>
  line === undefined ? `${relativeName(owner, zone)}/${typeText(type)}` : standText({ line, of })

const wordOf = (choice: string): string => choice.replace(/,/g, '').replace(/ /g, '-')

/** The option that gives this answer to a question of a zone. */
export const optionOf = (question: Question, choice: string, zone: Name): string =>
  question.about === 'mx' ? `--mx ${choice}` : `--answer ${keyOf(question, zone)}=${wordOf(choice)}`

/** The answers of `--answer`, for questions about a zone. Every one must be asked for: `unused` tells the first that was not. */
export class GivenAnswers {
  private readonly given: { text: string; key: string; word: string }[]
  private readonly used = new Set<string>()

  /** `texts`: as they were given, NAME/TYPE=CHOICE, LINE=CHOICE or FILE:LINE=CHOICE. Throws for other forms. */
  constructor(texts: readonly string[]) {
    this.given = texts.map((text) => {
      const at = text.lastIndexOf('=')
      if (at < 1)
        throw new Trouble(
          `--answer ${text} must be NAME/TYPE=CHOICE, as in --answer www/A=replace, or LINE=CHOICE (of several files FILE:LINE=CHOICE)`,
        )
      return { text, key: text.slice(0, at).toLowerCase(), word: text.slice(at + 1) }
    })
  }

  of(zone: Name): Answers {
    return (question) => {
      const key = keyOf(question, zone).toLowerCase()
      const choice = question.choices.find((each) =>
        this.given.some(({ key: of, word }) => of === key && word === wordOf(each)),
      )
      if (choice !== undefined)
        for (const { text, key: of, word } of this.given) if (of === key && word === wordOf(choice)) this.used.add(text)
      return choice
    }
  }

  get unused(): string | undefined {
    return this.given.find(({ text }) => !this.used.has(text))?.text
  }
}
