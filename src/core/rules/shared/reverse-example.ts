/** Reverse names: whether they lead back, and are made as they must be. */
import type { Example } from '../rule.ts'

export const two = (forward: string, reverse: string): Example => ({
  zones: { 'hollowmere.example': forward, '2.0.192.in-addr.arpa': reverse },
})
