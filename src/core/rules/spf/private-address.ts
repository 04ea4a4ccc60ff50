import { spfText } from '../../mail/spf/record.ts'
import { specialNetwork } from '../../names/address-kinds.ts'
import type { SpfReading } from '../shared/spf-text.ts'
import { placeOf, type TextRule } from '../shared/text-rules.ts'
import { bare } from './examples.ts'

export const spfPrivateAddress: TextRule<SpfReading> = {
  code: 'spf/private-address',
  severity: 'warning',
  source: 'RFC 6890',
  title: 'SPF address that receivers never see',
  why: 'Receivers see the address with which mail leaves your network. A private address never reaches them.',
  remedy: 'Write the public address of the outgoing gateway.',
  effect: 'No receiver ever sees mail from such an address: the term allows nobody.',
  bad: ['ip4:10.1.2.0/24 -all', 'ip4:192.168.1.5 mx -all', 'ip6:fd00::1 -all'].map(bare),
  good: ['ip4:192.0.2.0/24 -all'].map(bare),
  *inText({ record }) {
    for (const term of record?.mechanisms ?? []) {
      const { network, qualifier, bits4, bits6 } = term
      const special = network && qualifier === '+' ? specialNetwork(network) : undefined
      if (special?.unreachable && (network!.length === 4 ? bits4 : bits6) >= special.bits)
        yield {
          ...placeOf(term),
          message: `${term.text} is in ${special.text} (${special.kind})`,
          whole: spfText(record!.terms.filter((each) => each !== term)),
        }
    }
  },
}
