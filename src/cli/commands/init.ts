import { resolve } from 'node:path'
import type { Command } from 'commander'
import { configSchema } from '../../workspace/config-schema.ts'
import { makeWorkspace, SCHEMA_FILE } from '../../workspace/init.ts'
import { shownPath } from '../../workspace/workspace.ts'
import { callText } from '../call.ts'
import { today } from '../clock.ts'
import type { InitDocument } from '../documents/workspace.ts'
import { jsonOption } from '../options.ts'
import { Page, printJson } from '../output/page.ts'
import { table } from '../output/table.ts'

// The first line tells editors by which schema to complete and check the file.
const CONFIG = `# yaml-language-server: $schema=./${SCHEMA_FILE}
# A Bramblefront workspace. The zone files hold the records; this file holds what a zone file cannot.

# Which zone files are kept together. A pattern is enough; an entry says more about one of them:
#   - {zone: hollowmere.example, file: zones/hollowmere.example.zone, audience: public, complete: true, signed: no}
#   audience: public or private; complete: false where others add names that are not in the file;
#   signed: server (it signs by itself), file (the file is signed: it will not be edited), or no.
zones:
  - zones/*.zone

# Whom “bramblefront confirm” asks. Two are built in: authoritative (the zone’s own name servers) and system (the resolvers of this machine).
#   - {label: ferry-office, address: 192.0.2.1}
#   - {label: lake-tls, address: 198.51.100.7, transport: tls, name: dns.larkpost.example}
#   - {label: hill-https, url: "https://dns.northlight.example/dns-query"}
vantages:
  - authoritative
  - system

# Where a name server really listens, when that is not what DNS says (tests, odd networks).
#   - {name: ns1.upland-dns.example, address: 127.0.0.1, port: 5300}
servers: []

# Web fronts (reverse proxies, edge networks): hosts behind them take no mail and no other service.
#   - {label: northlight, ranges: [203.0.113.0/24], names: [edge.northlight.example]}
fronts: []

# Tops of zones that take the addresses of another name, as an alias cannot stand there.
#   - {owner: hollowmere.example, target: site.northlight.example}
follows: []

# Findings that are accepted: for a rule, or for a rule at a name; each with its reason.
#   - {rule: mx/single, at: lakepass.example, reason: "one exchange is enough for a parked name"}
exceptions: []
`

export const define = (command: Command): Command =>
  command.argument('[folder]', 'where (default: here)').addOption(jsonOption()).action(init)

/** Makes a workspace; what is there already stays as it is. */
async function init(folder: string | undefined, options: { json?: boolean }, command: Command): Promise<void> {
  const root = resolve(folder ?? '.')
  const schema = `${JSON.stringify(configSchema(), null, 2)}\n`
  const made = await makeWorkspace(root, { config: CONFIG, schema, command: callText(), now: today() })
  if (options.json) {
    const document: InitDocument = { format: 1, folder: root, made: made.map(shownPath) }
    printJson(document)
    return
  }
  const page = new Page(command)
  page.text(`A workspace in ${root}:`)
  table(
    page,
    [
      ['bramblefront.yaml', 'which zones are kept, whom to ask, what to allow'],
      [SCHEMA_FILE, 'what may stand there: editors complete and check by it'],
      ['zones/', 'zone files, one a zone, as name servers read them'],
      ['keys/', 'private keys; left out of version control'],
      ['backups/', 'each zone file as it was before a change'],
    ],
    '  ',
  )
  page.line()
  page.text('Next: put a zone file into zones/, as in zones/hollowmere.example.zone, then: bramblefront check')
  page.print()
}
