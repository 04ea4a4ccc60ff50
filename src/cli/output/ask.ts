/** Whether a person is there to be asked. */
export const canAsk = (): boolean => process.stdin.isTTY === true && process.stdout.isTTY === true

/** Asks on the terminal; true for yes, false for everything else, and where nobody is there. */
export async function agreedTo(question: string): Promise<boolean> {
  if (!canAsk()) return false
  const { createInterface } = await import('node:readline/promises')
  const asking = createInterface({ input: process.stdin, output: process.stdout })
  try {
    return /^y(?:es)?$/i.test((await asking.question(`${question} [yes/no] `)).trim())
  } finally {
    asking.close()
  }
}
