/** The call as the log has it: what was typed, without what must not be read there. */

/** Options whose values may be secrets. */
const SECRET = new Set(['--key'])

export function callText(args: readonly string[] = process.argv.slice(2)): string {
  return args
    .map((arg, i) => (SECRET.has(args[i - 1] ?? '') ? '…' : arg.replace(/^(--key)=.*$/s, '$1=…')))
    .map((arg) => (/^[\w./:@%+=,~-]+$/.test(arg) ? arg : `'${arg.replaceAll("'", "'\\''")}'`))
    .join(' ')
}

/** The option that a proposed call needs where a zone has several views. */
export const viewText = (view: string | null | undefined): string =>
  view === undefined || view === null ? '' : ` ${callText(['--view', view])}`
