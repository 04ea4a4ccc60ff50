/** Whom is asked, and what came of it. */
import type { Message } from '../message/message.ts'

export type Transport = 'udp' | 'tcp' | 'tls' | 'https'

/** One party that is asked, and how it is reached. */
export interface Vantage {
  label: string
  /** An address; over HTTPS it may be a host’s name. */
  address: string
  port: number
  /** Default: by UDP, with a change to TCP where that is needed. */
  transport?: Transport
  /** The name that its certificate must be for. */
  name?: string
  /** The file with the authorities that may vouch for it (PEM), instead of the system’s. */
  authority?: string
  /** Path and query of its URL, for HTTPS. */
  path?: string
  method?: 'post' | 'get'
}

/** One answer of one vantage, whole, or why there is none. */
export interface Observation {
  vantage: string
  message?: Message
  /** Why there is no message: nothing came (and what was tried), what came could not be read, it is no resolver that replied, or there is no way there from here. */
  trouble?: { kind: 'no-reply' | 'garbled' | 'unusable' | 'not-tried'; detail: string }
  transport: Transport
  /** It answered only without EDNS. */
  plain?: boolean
  /** Milliseconds from the first question to the answer, or to giving up. */
  tookMs: number
  /** When it came: seconds since 1970. */
  at: number
}
