/** What headings and labels call the parts of a record, in the languages in which people are sent them. */

/** What a cell is in a record. */
export type Role =
  | 'type'
  | 'owner'
  | 'value'
  | 'ttl'
  | 'priority'
  | 'weight'
  | 'port'
  | 'service'
  | 'protocol'
  | 'class'
  | 'flags'
  | 'tag'
  | 'usage'
  | 'selector'
  | 'matching'
  | 'action'
  | 'nothing'

/** Without diacritics and signs, in lower case. */
const WORDS: Record<Role, string> = {
  type: `type; record type; dns type; rr type; recordtype; dns record type; typ; eintragstyp; recordtyp; art; eintragsart; typ des eintrags;
    tipo; tipo de registro; tipo di record; tipo record; tipo registro; type d enregistrement; type enregistrement; soort; soort record;
    recordsoort; typ rekordu; rodzaj; typ zaznamu; posttyp; typ av post; rekordtyp; posttype; тип; тип записи; вид записи; tyyppi; tip; tipus; kind`,
  owner: `name; host; hostname; host name; record name; dns name; subdomain; sub domain; domain; owner; label; host record; entry; fqdn;
    domain name; host label; record host; txt name; cname name; record; dns host; zone; host alias; alias; prefix; txt host; cname host;
    nom; nom d hote; hote; sous domaine; nom de domaine; domaine; nom de l enregistrement; nombre; nombre de host; nombre del host; anfitrion; subdominio;
    nombre del registro; dominio; nome; nome host; nome do host; nome do registro; sottodominio; naam; hostnaam; subdomein; domein; nazwa; nazwa hosta; subdomena; domena; host subdomena;
    namn; vardnamn; doman; subdoman; navn; vertsnavn; vaertsnavn; domaene; subdomaene; unterdomain; hostname subdomain; name des eintrags; praefix; prafix; nimi; nazev; jmeno; nev; nume; имя; хост; имя хоста; узел; поддомен; домен; имя записи; prefisso; prefixe; prefijo`,
  value: `value; content; data; record value; record data; rdata; points to; point to; pointing to; alias for; alias to; alias of; public key; key; rrdatas; rrdata; rdatas; answers; servidor; serveur; server name; target; destination; answer; address; ip; ip address; ipv4; ipv6;
    ipv4 address; ipv6 address; text; txt value; txt record; txt; result; values; target host; target name; target server; canonical name; mail server; servidor de email; servidor de correo; serveur de messagerie; serveur mail; mailserver name; server di posta; mailserver; exchange;
    mail exchanger; exchanger; points at; value points to; goes to; cname value; mx value; record content; required value; target value; data value; certificate data; certificate association data; association data; certificate; cert data;
    wert; inhalt; ziel; zeigt auf; zeigt nach; daten; adresse; ip adresse; zielhost; zieladresse; zielname; textwert;
    valeur; contenu; cible; pointe vers; adresse ip; donnees; valeur cible; valor; contenido; destino; apunta a; direccion; direccion ip; datos; valor de destino; objetivo;
    valore; contenuto; punta a; destinazione; indirizzo; indirizzo ip; dati; waarde; inhoud; doel; verwijst naar; wijst naar; adres; gegevens; bestemming;
    conteudo; aponta para; endereco; endereco ip; dados; alvo; wartosc; zawartosc; cel; wskazuje na; dane; adres ip; varde; innehall; pekar pa; mal; adress;
    vaerdi; verdi; peger pa; indhold; innhold; maal; hodnota; obsah; cil; arvo; kohde; ertek; valoare; значение; содержимое; данные; адрес; указывает на; цель; tinta`,
  ttl: `ttl; time to live; ttl seconds; ttl in seconds; ttl sec; ttl s; cache; cache time; lebensdauer; gultigkeit; gueltigkeit; gultigkeitsdauer; duree; duree de vie; tiempo de vida; durata; tempo de vida; levensduur; czas zycia; livslangd; ttl minutes`,
  priority: `priority; prio; pref; preference; mx priority; mx level; level; mx preference; prior; prioritat; prioritaet; priorite; prioridad; priorita; prioriteit; prioridade; priorytet; prioritet; praferenz; praeferenz; preferencia; preferenza; voorkeur; prioritas; prioriteetti; приоритет`,
  weight: 'weight; вес; gewicht; gewichtung; poids; peso; waga; vikt; vaegt; vekt',
  port: 'port; порт; puerto; porta; poort; port number; tcp port; numer portu; portnummer',
  service: 'service; dienst; servicio; servizio; servico; usluga; tjanst; srv service; service name',
  protocol: 'protocol; proto; protokoll; protocole; protocolo; protocollo; protokol; srv protocol',
  class: 'class; klasse; classe; clase; klasa; klass',
  flags: 'flags; flag; caa flag; caa flags',
  tag: 'tag; caa tag; property tag',
  usage: 'usage; certificate usage; cert usage; tlsa usage',
  selector: 'selector; tlsa selector; selektor; selecteur; selettore; dkim selector; dkim selektor',
  matching: 'matching type; matching; match type',
  action:
    'action; change; operation; aktion; vorgang; accion; azione; actie; acao; aanpassing; modification; anderung; aenderung; was',
  nothing: `status; state; actions; purpose; comment; comments; note; notes; description; required; proxy; proxied; proxy status; id; no; nr; valid; bemerkung; zweck; kommentar;
    created; verified; cached; options; delete; edit; enabled; active; statut; commentaire; estado; comentario; stato; commento; opmerking; provider; step; use; used for; why; remarks; anmerkung; beschreibung`,
}

const ROLES = new Map<string, Role>(
  (Object.entries(WORDS) as [Role, string][]).flatMap(([role, words]) =>
    words.split(/;\s*/).map((word): [string, Role] => [word.replace(/\s+/g, ' ').trim(), role]),
  ),
)

const LETTERS: Record<string, string> = { ł: 'l', ø: 'o', đ: 'd', ß: 'ss', æ: 'ae', œ: 'oe' }
const LONGEST = 60

/** What a heading or label stands for; undefined for what is none. Several words for it (`Host / Name`) must agree. */
export function roleOf(label: string): Role | undefined {
  if (label.length > 4 * LONGEST) return undefined
  const roles = label.split(/(?<!\s)\s*\/\s*|(?<!\s)\s+(?:or|oder|ou|o|of)\s+/).map(roleOfOne)
  return roles.every((role) => role === roles[0]) ? roles[0] : roleOfOne(label)
}

function roleOfOne(label: string): Role | undefined {
  if (label.length > LONGEST || label === '') return undefined
  if (/^#$/.test(label.trim())) return 'nothing'
  const plain = label
    .toLowerCase()
    .replace(/[łøđßæœ]/g, (letter) => LETTERS[letter]!)
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
  const words = (text: string): string => text.replace(/[^\p{L}\p{N}]+/gu, ' ').trim()
  const short = words(plain.replace(/\([^()]*\)/g, ' '))
  return (
    ROLES.get(words(plain)) ??
    ROLES.get(short) ??
    ROLES.get(short.replace(/^(?:dns|the|your|le|la|el|il|der|die|das|de|o) /, ''))
  )
}
