/** Types whose text a server does not read: there it is no witness for the table. The reference of types (docs/types.md) is made from this. */
export const UNREAD: Record<string, string[]> = {
  named: [],
  knotd: ['MB', 'MG', 'MR', 'X25', 'ISDN', 'PX', 'HIP', 'NINFO', 'RKEY', 'TALINK', 'DSYNC', 'AVC', 'RESINFO', 'WALLET'],
  nsd: ['HIP', 'NINFO', 'RKEY', 'TALINK', 'DSYNC', 'RESINFO', 'WALLET'],
}
