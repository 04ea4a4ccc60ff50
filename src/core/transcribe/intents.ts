/** Words of intent around records: what is there now, what shall go, what is done elsewhere. They stop a change or ask, and never make one. */

export type Intent = 'delete' | 'replace' | 'current' | 'registrar' | 'add'

/** What finds any of some words, each whole. */
export const has = (words: string): RegExp => new RegExp(`(?:^|[^\\p{L}])(?:${words})(?=$|[^\\p{L}])`, 'iu')

const WORDS: [Intent, RegExp][] = [
  ['registrar', has('registrars?|name ?servers? (?:of|for|at)|nameservers|nameserver|registraire|registrador')],
  [
    'delete',
    has(
      'delete|deleted|remove|removed|drop|take out|get rid of|löschen|lösche|entfernen|entferne|supprimer|supprimez|retirez|eliminar|elimine|borrar|borre|quitar|eliminare|elimina|rimuovere|rimuovi|verwijder|verwijderen|apagar|remover|remova|usuń|usunąć|radera|ta bort|slet|fjern|smazat|poista',
    ),
  ],
  [
    'replace',
    has(
      'replace|replaced|replacing|change (?:it )?to|instead of|ersetzen|ersetze|ersetzt|remplacer|remplacez|reemplazar|sustituir|sostituire|sostituisci|vervang|vervangen|substituir|substitua|zastąp|zamień|ersätt|byt ut|erstat|erstatt',
    ),
  ],
  [
    'current',
    has(
      'currently|current|existing|old|before|previous|at present|aktuell|derzeit|bisher|bisherig\\p{L}*|alte?[rsn]?|vorher|actuellement|actuels?|ancien\\p{L}*|actualmente|actual|antiguo|anterior|attualmente|attuale|vecchio|huidige?|oude?|atualmente|atual|antigo|obecnie|obecny|stary|nuvarande|gammal|nuværende|nåværende|gammel',
    ),
  ],
  [
    'add',
    has(
      'add|new|create|then|neu|neue[rsn]?|hinzufügen|ajouter|nouveau|nouvelle|añadir|nuevo|aggiungere|nuovo|toevoegen|nieuw|adicionar|novo|dodaj|nowy|lägg till|ny',
    ),
  ],
]

/** “Change the record from … to …”, each on its own lines. */
const FROM = /(?:^|\s)(?:from|von|desde|da|van|från|fra)\s*(?::\s*)?$/i
const TO = /^\s*(?:to|zu|auf|à|en|a|naar|with|mit|into|avec|con|till|til)\s*(?::\s*)?$/i

/** Whether what a text leads to stands below it. */
export const leadsIn = (text: string): boolean => /:\s*$/.test(text) || FROM.test(text) || text.split(/\s+/).length <= 4

const lastOf = (text: string, intent: Intent): number => {
  const words = WORDS.find(([each]) => each === intent)![1]
  let at = -1
  for (const match of text.matchAll(new RegExp(words.source, 'giu'))) at = match.index
  return at
}

/** Whether a sentence wants something gone, whatever else it wants. */
export const wantsGone = (text: string): boolean =>
  text.length <= 2000 && WORDS[1]![1].test(text.replace(/\([^()]*\)/g, ' '))

const ACTIONS: [Intent, RegExp][] = [
  [
    'delete',
    /^(?:delete|remove|drop|löschen|entfernen|supprimer|eliminar|borrar|elimina|rimuovi|verwijderen|remover|usuń)$/i,
  ],
  [
    'replace',
    /^(?:modify|change|update|replace|ändern|ersetzen|modifier|modificar|cambiar|modifica|wijzigen|alterar|zmień)$/i,
  ],
  [
    'add',
    /^(?:add|create|new|insert|set|hinzufügen|neu|anlegen|ajouter|créer|añadir|crear|aggiungi|toevoegen|adicionar|dodaj)$/i,
  ],
]

/** What a cell says is to be done with its row. */
export const actionIn = (text: string): Intent | undefined => ACTIONS.find(([, words]) => words.test(text.trim()))?.[0]

/** What a heading or sentence means for the records that it is about. */
export function intentOf(text: string): Intent | undefined {
  if (text.length > 2000) return undefined
  const plain = text.replace(/\([^()]*\)/g, ' ')
  // “Replace example.com with your own domain” is about the words, not about records.
  if (/\b(?:with|by|durch|par|por|con|door) (?:your|ihre[rn]?|votre|su|tu|uw)\b/i.test(plain)) return undefined
  if (FROM.test(plain)) return 'current'
  if (TO.test(plain)) return 'replace'
  const found = WORDS.filter(([, words]) => words.test(plain)).map(([intent]) => intent)
  // “Replace the current record with”, “change the old one to”: what follows is new.
  if (found.includes('replace')) return 'replace'
  // “Remove the old ones, then add”: what follows is what was said last.
  if (found.includes('delete') && found.includes('add') && lastOf(plain, 'add') > lastOf(plain, 'delete')) return 'add'
  return found[0]
}
