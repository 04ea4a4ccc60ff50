/** The text of a sound new zone. */
import { toAsciiName } from '../../core/names/idna.ts'
import { bare, type Name, toName } from '../../core/names/name.ts'
import { Trouble } from '../../workspace/trouble.ts'

/** A name that an option states: absolute, whether or not it has a final dot. */
export function nameStated(text: string, option: string): Name {
  const ascii = toAsciiName(text)
  const name = 'refused' in ascii ? undefined : toName(ascii.name)
  if (name === undefined || name === '.') throw new Trouble(`${option} ${text} is not a valid domain name`)
  return name
}

export const serversStated = (ns: readonly string[]): Name[] => ns.map((each) => nameStated(each, '--ns'))

/** SOA and NS of a zone: `servers` are its name servers, the first of them the MNAME; the RNAME is made of a mail address. */
export function newZoneText(zone: Name, servers: readonly Name[], mailbox: string | undefined, now: Date): string {
  const stated = mailbox ?? `hostmaster@${bare(zone)}`
  const at = stated.lastIndexOf('@')
  if (at < 1)
    throw new Trouble(`--mailbox: “${stated}” is not a valid email address (expected e.g. hostmaster@example.com)`)
  const rname = `${stated.slice(0, at).replaceAll('.', '\\.')}.${nameStated(stated.slice(at + 1), '--mailbox')}`
  const serial = `${now.toISOString().slice(0, 10).replaceAll('-', '')}01`
  const text = [
    `$ORIGIN ${zone}`,
    '$TTL 3600',
    `@       SOA  ${servers[0]} ${rname} (`,
    `             ${serial.padEnd(10)} ; serial`,
    '             7200       ; refresh',
    '             900        ; retry',
    '             1209600    ; expire',
    '             3600       ; minimum',
    '             )',
    ...servers.map((each) => `        NS   ${each}`),
  ]
  return `${text.join('\n')}\n`
}
