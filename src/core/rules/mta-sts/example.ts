/** How mail must be carried to a domain (MTA-STS), and where reports of it go (TLS-RPT). */
export const HOST = 'mta-sts A 192.0.2.80'
