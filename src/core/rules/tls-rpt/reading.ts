import { isTlsReports, parseTlsReports } from '../../mail/transport.ts'
import { transportTexts } from '../shared/transport-text.ts'

export const REPORT_TEXTS = transportTexts({
  family: 'tls-rpt',
  labels: ['_smtp', '_tls'],
  version: 'v=TLSRPTv1',
  meant: /tls-?rpt/i,
  counts: isTlsReports,
  parse: parseTlsReports,
})

export const NO_REPORTS = 'No reports come.'
