/** The time and waiting, handed in to all that needs them: nothing in the core or in `net/` reads the system’s. */
export interface Clock {
  /** Seconds since 1970. */
  now(): number
  /** Milliseconds from some moment on, only ever forward: for measuring. */
  elapsed(): number
  /** Does something after so many milliseconds; what is returned stops that. */
  after(ms: number, work: () => void): () => void
}
