/** Whether a person is there to be asked. */
export const canAsk = (): boolean => process.stdin.isTTY === true && process.stdout.isTTY === true

/** Asks on the terminal; true for yes, false for everything else, and where nobody is there. */
export async function agreedTo(question: string): Promise<boolean> {
  return /^y(?:es)?$/i.test((await answered(`${question} [yes/no]`)) ?? '')
}

/** Asks on the terminal for a word; undefined where nobody is there. */
export async function answered(question: string): Promise<string | undefined> {
  if (!canAsk()) return undefined
  const { createInterface } = await import('node:readline/promises')
  const asking = createInterface({ input: process.stdin, output: process.stdout })
  try {
    return (await asking.question(`${question} `)).trim()
  } finally {
    asking.close()
  }
}
