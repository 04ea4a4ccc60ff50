/** What hosting companies offer beside record types: features of their servers, of which no zone file and no other server knows. */

/** What a word is at hosts, and what does the same here; undefined for a word that is none of theirs. */
export function atHosts(word: string): string | undefined {
  const name = word.toUpperCase()
  if (LIKE_ALIAS.has(name))
    return `“${word}” is not a record type: at hosting companies it is a feature of their servers, which resolve the target and answer with its addresses. Here: bramblefront write cname NAME TARGET; at the zone apex, where a CNAME cannot be: bramblefront follow ZONE TARGET`
  if (LIKE_REDIRECT.has(name))
    return `“${word}” is not a record type: at hosting companies it is a feature of a web server of theirs, which sends browsers on. Here: write the address of the web server that does it: bramblefront write address NAME ADDRESS`
  return undefined
}

const LIKE_ALIAS = new Set(['ALIAS', 'ANAME', 'FLATTEN', 'FLATTENED'])
const LIKE_REDIRECT = new Set(['REDIRECT', 'FORWARD', 'FORWARDING', 'URL', 'WEB', 'WEBFORWARD'])

/** That a word is no record type, and what it is at hosts where it is something there. */
export const notAType = (word: string): string => atHosts(word) ?? `“${word}” is not a record type`
