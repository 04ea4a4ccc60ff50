/** Names that were written otherwise than they were meant. */
/** What is said of a target that does not exist. */
export const FOLLOWS = [
  'cname/target-missing',
  'mx/target-without-address',
  'srv/target-without-address',
  'ns/target-without-address',
  'ns/glue-missing',
  'zones/target-missing',
  'ptr/forward-missing',
  'svcb/target-missing',
  'naptr/replacement-missing',
]
