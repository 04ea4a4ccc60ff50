/** Asking the servers of a zone, and of its parent, for what they say of it. */
import { TYPE } from '../records/types.ts'
import type { Asking, Party, Plan } from './plan.ts'
import { needsSecured } from './signatures.ts'
import { delegationIn, glueIn, intendedState, type ServerState, serverState, type ZoneState } from './zone-state.ts'

const OF_SERVER = { recursion: false }

/** SOA and NS at each server, the signature of the one with it; and the delegation at servers of the parent zone. */
export async function lookAtZone(
  { zones, zone, parents, hosted }: Plan,
  asking: Asking,
  servers: readonly Party[],
): Promise<ZoneState> {
  const [states, delegations] = await Promise.all([
    Promise.all(
      servers.map(async ({ label, server }): Promise<ServerState> => {
        const [soa, ns] = await Promise.all([
          asking.ask(label, zone.name, TYPE.SOA, { ...OF_SERVER, dnssecOk: true }),
          asking.ask(label, zone.name, TYPE.NS, OF_SERVER),
        ])
        return serverState(zone, label, server, soa, ns)
      }),
    ),
    Promise.all(
      parents.map(async ({ label }) => {
        const { message } = await asking.ask(label, zone.name, TYPE.NS, OF_SERVER)
        const found = delegationIn(zone, message)
        return found ? [{ vantage: label, ...found, glue: glueIn(zone, message!) }] : []
      }),
    ),
  ])
  const state: ZoneState = {
    intended: intendedState(zones, zone, hosted),
    servers: states,
    parents: delegations.flat(),
  }
  return needsSecured(state, asking.now()) ? { ...state, secured: await isSecured(zone.name, parents, asking) } : state
}

/** Whether the parent zone says that the zone is signed (DS, RFC 4035 §5); undefined where nobody there says so or not. */
async function isSecured(zone: string, parents: readonly Party[], asking: Asking): Promise<boolean | undefined> {
  for (const { label } of parents) {
    const { message } = await asking.ask(label, zone, TYPE.DS, OF_SERVER)
    if (message?.answers.some(({ type }) => type === TYPE.DS)) return true
    if (message?.authoritative && message.rcode === 0) return false
  }
  return undefined
}
