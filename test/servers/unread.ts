/** Types whose text a server does not read: there it is no witness for the table. The reference of types (docs/types.md) is made from this. */
export const UNREAD: Record<string, string[]> = {
  named: [],
  knotd: ['X25', 'ISDN', 'HIP'],
  nsd: ['HIP'],
}
