/** How much is said: the options that every command has, wherever they stand in the call. */
export const verbosity = { quiet: false, verbose: false }

/** Takes these options out of a call (what follows `--` is data), and sets what they say. */
export function withoutVerbosity(args: readonly string[]): string[] {
  const end = args.indexOf('--')
  const isOption = (arg: string, i: number, option: string): boolean => arg === option && (end < 0 || i < end)
  verbosity.quiet = args.some((arg, i) => isOption(arg, i, '--quiet'))
  verbosity.verbose = args.some((arg, i) => isOption(arg, i, '--verbose'))
  if (args.some((arg, i) => isOption(arg, i, '--no-color'))) process.env.NO_COLOR = '1'
  return args.filter((arg, i) => !['--quiet', '--verbose', '--no-color'].some((option) => isOption(arg, i, option)))
}
