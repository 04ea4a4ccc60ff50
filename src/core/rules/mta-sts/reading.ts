import { isSts, parseSts } from '../../mail/transport.ts'
import { transportTexts } from '../shared/transport-text.ts'

export const STS_TEXTS = transportTexts({
  family: 'mta-sts',
  labels: ['_mta-sts'],
  version: 'v=STSv1',
  meant: /sts/i,
  counts: isSts,
  parse: parseSts,
})

export const NO_POLICY = 'Senders conclude that there is no policy.'
