/** All rules, by family: a folder each, whose index names its rules. A rule's path tells its code; its own examples are its test. */

import { ADDRESS } from './address/index.ts'
import { CAA } from './caa/index.ts'
import { CATALOG } from './catalog/index.ts'
import { CNAME } from './cname/index.ts'
import { CONFIG } from './config/index.ts'
import { DIGEST } from './digest/index.ts'
import { DKIM } from './dkim/index.ts'
import { DMARC } from './dmarc/index.ts'
import { DNAME } from './dname/index.ts'
import { DNSSEC } from './dnssec/index.ts'
import { FILE } from './file/index.ts'
import { HOST } from './host/index.ts'
import { LIVE } from './live/index.ts'
import { MAIL } from './mail/index.ts'
import { MTA_STS } from './mta-sts/index.ts'
import { MX } from './mx/index.ts'
import { NAME } from './name/index.ts'
import { NAPTR } from './naptr/index.ts'
import { NS } from './ns/index.ts'
import { PTR } from './ptr/index.ts'
import type { Rule } from './rule.ts'
import { SET } from './set/index.ts'
import { SOA } from './soa/index.ts'
import { SPF } from './spf/index.ts'
import { SRV } from './srv/index.ts'
import { SVCB } from './svcb/index.ts'
import { TLS_RPT } from './tls-rpt/index.ts'
import { TLSA } from './tlsa/index.ts'
import { TXT } from './txt/index.ts'
import { WILDCARD } from './wildcard/index.ts'
import { ZONES } from './zones/index.ts'

export const CATALOGUE: readonly Rule[] = [
  ...ADDRESS,
  ...CAA,
  ...CATALOG,
  ...CNAME,
  ...CONFIG,
  ...DIGEST,
  ...DKIM,
  ...DMARC,
  ...DNAME,
  ...DNSSEC,
  ...FILE,
  ...HOST,
  ...LIVE,
  ...MAIL,
  ...MTA_STS,
  ...MX,
  ...NAME,
  ...NAPTR,
  ...NS,
  ...PTR,
  ...SET,
  ...SOA,
  ...SPF,
  ...SRV,
  ...SVCB,
  ...TLS_RPT,
  ...TLSA,
  ...TXT,
  ...WILDCARD,
  ...ZONES,
]

/** The rule of a code, or undefined. */
const BY_CODE: ReadonlyMap<string, Rule> = new Map(CATALOGUE.map((rule) => [rule.code, rule]))

export const ruleOf = (code: string): Rule | undefined => BY_CODE.get(code)
