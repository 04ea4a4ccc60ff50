/** Long values cut for people. What is to be copied is never cut. */

/** A longer run without a blank (a key, a digest, a certificate) says nothing to people. */
const LONG = 72
const HEAD = 28
const TAIL = 16

const RUN = new RegExp(`[^\\s"]{${LONG + 1},}`, 'g')

const cut = (value: string): string => value.replace(RUN, (run) => `${run.slice(0, HEAD)}…${run.slice(-TAIL)}`)

/** Values side by side, their long runs told by their beginning and end; two that would look the same stay whole. */
export function folded(values: readonly string[]): string[] {
  const short = values.map(cut)
  const whole = new Map<string, Set<string>>()
  for (const [i, value] of values.entries()) whole.set(short[i]!, (whole.get(short[i]!) ?? new Set()).add(value))
  return values.map((value, i) => (whole.get(short[i]!)!.size > 1 ? value : short[i]!))
}
