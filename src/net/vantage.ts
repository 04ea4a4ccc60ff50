/** One party that is asked, and how it is reached. */
import { isIP } from 'node:net'

export interface Vantage {
  label: string
  address: string
  port: number
}

/** `192.0.2.1`, `192.0.2.1:5300`, `2001:db8::1` or `[2001:db8::1]:5300` as a vantage, labelled as it was written; undefined where it is none of these. */
export function parseVantage(text: string): Vantage | undefined {
  const match = /^\[([^\]]+)\](?::(\d+))?$/.exec(text) ?? (isIP(text) ? [text, text] : /^([^:]+):(\d+)$/.exec(text))
  if (!match || !isIP(match[1])) return undefined
  const port = match[2] === undefined ? 53 : Number(match[2])
  return port > 0 && port < 65_536 ? { label: text, address: match[1], port } : undefined
}
