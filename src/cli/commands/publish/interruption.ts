/** What a call says that is interrupted in the middle (Ctrl-C): what is in place by then. */

import { printable } from '../../../core/printable.ts'
import { printNote } from '../../output/terminal.ts'

/** The status of a program that was ended by SIGINT. */
const INTERRUPTED = 130

/** Does the work; where it is interrupted, `says` tells what is in place, and the program ends. */
export async function whileInterruptible<T>(says: () => string, work: () => Promise<T>): Promise<T> {
  const stop = (): void => {
    printNote(`\nbramblefront: interrupted. ${printable(says())}\n`)
    process.exit(INTERRUPTED)
  }
  process.once('SIGINT', stop)
  try {
    return await work()
  } finally {
    process.removeListener('SIGINT', stop)
  }
}
