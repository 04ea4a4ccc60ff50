import { existsSync } from 'node:fs'
import { join, resolve } from 'node:path'
import type { Command } from 'commander'
import { bare, foldName, type Name } from '../../core/names/name.ts'
import { octetsOf } from '../../core/names/octets.ts'
import { jsonText } from '../../core/printable.ts'
import { configSchema } from '../../workspace/config-schema.ts'
import { makeWorkspace, SCHEMA_FILE } from '../../workspace/init.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { CONFIG_FILE, loadZones, openWorkspace, shownPath } from '../../workspace/workspace.ts'
import { callText } from '../call.ts'
import { today } from '../clock.ts'
import type { InitDocument } from '../documents/workspace.ts'
import { collect, jsonOption } from '../options.ts'
import { Page, printJson } from '../output/page.ts'
import { table } from '../output/table.ts'
import { type Adopted, bringIn } from './adopt/bring-in.ts'
import { nameStated, newZoneText, serversStated } from './new-zone.ts'
import { WAYS_IN } from './source.ts'

// The first line tells editors by which schema to complete and check the file.
const CONFIG = `# yaml-language-server: $schema=./${SCHEMA_FILE}
# A Bramblefront workspace. The zone files hold the records; this file holds what a zone file cannot.

# Your zone files: a pattern is enough; an entry says more about one of them:
#   - {zone: example.com, file: zones/example.com.zone, audience: public, complete: true, signed: no}
#   audience: public or private; complete: false if others add names that are not in the file;
#   signed: server (the server signs it), file (the file is signed and will not be edited), or no.
zones:
  - zones/*.zone

# Whom “bramblefront confirm” asks. Built in: authoritative (the zone’s own name servers) and system (the resolvers of this machine).
#   - {label: office, address: 192.0.2.1}
#   - {label: by-tls, address: 198.51.100.7, transport: tls, name: dns.example.net}
#   - {label: by-https, url: "https://dns.example.net/dns-query"}
vantages:
  - authoritative
  - system

# Where a name server really listens, if DNS says otherwise (tests, special networks).
#   - {name: ns1.example.net, address: 127.0.0.1, port: 5300}
servers: []

# Web fronts (reverse proxies, edge networks): they forward web traffic only, no mail and no other services.
#   - {label: edge, ranges: [203.0.113.0/24], names: [edge.example.net]}
fronts: []

# Apexes that follow another name: its addresses are written there, since a CNAME cannot be at an apex.
#   - {owner: example.com, target: site.example.net}
follows: []

# Accepted findings: of a rule, or of a rule at a name; each with a reason.
#   - {rule: mx/single, at: example.com, reason: "one MX host is enough here"}
exceptions: []
`

interface InitOptions {
  zone?: string
  ns?: string[]
  mailbox?: string
  json?: boolean
}

export const define = (command: Command): Command =>
  command
    .argument('[folder]', 'where (default: here)')
    .option('--zone <name>', 'also make a new zone, in a workspace that is there already, too')
    .option('--ns <host>', 'a name server of the new zone; the first is its MNAME (repeatable)', collect)
    .option('--mailbox <address>', 'the RNAME of the new zone (default: hostmaster@ZONE)')
    .addOption(jsonOption())
    .action(init)

/** Makes a workspace, or a new zone in one; what is there already stays as it is. */
async function init(folder: string | undefined, options: InitOptions, command: Command): Promise<void> {
  const root = resolve(folder ?? '.')
  const zone = options.zone === undefined ? undefined : newZone(options)
  const schema = `${jsonText(configSchema(), 2)}\n`
  const isThere = zone !== undefined && existsSync(join(root, CONFIG_FILE))
  const made = isThere ? [] : await makeWorkspace(root, { config: CONFIG, schema, command: callText(), now: today() })
  if (zone) made.push(await zoneMade(root, zone))
  if (options.json) {
    const document: InitDocument = { format: 1, folder: root, made: made.map(shownPath) }
    printJson(document)
    return
  }
  const page = new Page(command)
  if (!isThere) {
    page.text(`Created a workspace in ${root}:`)
    table(
      page,
      [
        ['bramblefront.yaml', 'your zones, whom to ask, exceptions'],
        [SCHEMA_FILE, 'its schema, for editors that complete and validate'],
        ['zones/', 'zone files, one per zone, as name servers read them'],
        ['keys/', 'private keys, excluded from version control'],
        ['backups/', 'each zone file as it was before a change'],
      ],
      '  ',
    )
    page.line()
  }
  if (zone) {
    page.text(`Created the zone ${bare(zone.name)} in ${shownPath(made.at(-1)!)}.`)
    page.text(`Next: bramblefront write address ${bare(zone.name)} ADDRESS`)
  } else {
    page.text('Next, bring your zones in, or make one:')
    table(page, WAYS_IN, '  ')
  }
  page.print()
}

/** The new zone that the call states. */
function newZone({ zone: stated, ns = [], mailbox }: InitOptions): { name: Name; text: string } {
  const name = foldName(nameStated(stated!, '--zone'))
  if (ns.length === 0) throw new Trouble('a zone needs name servers: give them with --ns HOST, each')
  return { name, text: newZoneText(name, serversStated(ns), mailbox, today()) }
}

/** Puts the new zone into the workspace; returns its file. */
async function zoneMade(root: string, { name, text }: { name: Name; text: string }): Promise<string> {
  const workspace = await openWorkspace(root, { allViews: true })
  const twin = workspace.files.find(({ zone }) => foldName(zone) === name)
  if (twin) throw new Trouble(`${bare(name)} is already in your workspace, as ${twin.file}; nothing was changed`)
  const to = join(root, 'zones', `${bare(name)}.zone`)
  if (existsSync(to)) throw new Trouble(`${shownPath(to)} already exists; nothing was changed`)
  const file = { zone: name, file: shownPath(to), octets: octetsOf(text) }
  const adopted: Adopted = {
    given: to,
    by: 'file',
    file,
    zones: loadZones([file]),
    traits: {},
    complete: true,
    notes: [],
    copies: [{ to, octets: file.octets }],
    there: false,
  }
  await bringIn(root, [adopted], undefined)
  return to
}
