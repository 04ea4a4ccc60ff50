/** Holds what the program says against the world that it spoke of. */
import { type Came, labelOf } from './asked.ts'
import {
  type Answer,
  answerOf,
  atResolver,
  atServer,
  copyOf,
  isKept,
  isRight,
  pass,
  type RecordSet,
  type Resolver,
  sameValues,
  type Version,
  type World,
} from './dns.ts'

const DAY = 86_400
const FRONT = 'site.front.example.'
const GARBAGE = '203.0.113.66'
const ALL_NAMES = ['www', 'ftp', 'new', '@', 'x.pier', 'boat.pier', 'deep', 'a.deep', 'host', 'other']
const ALL_TYPES = ['A', 'AAAA', 'TXT', 'CNAME']
const NEW: Record<string, string> = { A: '198.51.100.1', AAAA: '2001:db8::99', TXT: '"changed"', CNAME: 'host' }

/** A set as it was confirmed. */
interface Said {
  name: string
  type: string
  wildcard: boolean
  status: string
  until?: number
  atMost: boolean
  says: string
  answers: { vantage: string; role: string; verdict: string; extra: string[] }[]
  causes: { kind: string }[]
}

const stateOf = (version: Version, name: string, type: string): string => textOf(answerOf(version, name, type))
const textOf = ({ aliases, set }: Pick<Answer, 'aliases' | 'set'>): string =>
  aliases[0] ? `alias ${aliases[0].to}/${aliases[0].ttl}` : set ? `${[...set.values].sort()}/${set.ttl}` : 'none'

/** A wildcard is asked for by a name that cannot exist. */
const nameOf = (label: string): string => label.replace(/^bramblefront-[0-9a-f]+\./, 'x.')

export class Judge {
  /** How often each status was given, and held. */
  readonly held: Record<string, number> = {}
  readonly failures: string[] = []
  private readonly world: World
  private readonly follows: boolean
  /** What a command wrote down, or a confirmation saw at a server, by name and type; and when all servers were seen with something else. */
  private readonly seen: Record<string, { state: string; gone?: number }[]> = {}
  /** All that was ever there, or to be there. */
  private readonly ever: Record<string, Set<string>> = {}
  private readonly longest: Record<string, number> = {}
  private readonly through: Record<string, number> = {}
  private readonly promised: Record<string, { until: number; events: number; vantages: string[] }> = {}
  private readonly garbled = new Set<string>()
  private events = 0
  private hasGoneBack = false
  private sawParent = false
  private delegations = 0
  /** Sets of name servers that were written down, or seen at all servers. */
  private readonly knownServers = new Set<string>()
  private last: { doc: Said[]; events: number } | undefined

  constructor(world: World, follows: boolean) {
    this.world = world
    this.follows = follows
    this.remember('begin')
  }

  wentBack(): void {
    this.hasGoneBack = true
  }

  /** The file was edited by hand: of the states since the last call some may not be known. */
  edited(): void {}

  /** A command wrote this version down, or found it. */
  written(version: Version): void {
    for (const name of ALL_NAMES) for (const type of ALL_TYPES) this.see(name, type, stateOf(version, name, type))
    this.knownServers.add(version.ns.names.join())
  }

  remember(what: string): void {
    if (!['ask', 'confirm', 'timing', 'confirm by a wrong clock'].includes(what)) this.events++
    if (what === 'head' || what === 'delegate') this.delegations++
    const { file, servers } = this.world
    for (const version of [file, ...Object.values(servers).flatMap(({ copy }) => copy ?? [])])
      for (const name of ALL_NAMES)
        for (const type of ALL_TYPES) {
          const key = `${name} ${type}`
          const answer = answerOf(version, name, type)
          ;(this.ever[key] ??= new Set()).add(textOf(answer))
          const ttl = Math.max(...answer.aliases.map((each) => each.ttl), answer.set?.ttl ?? answer.negative ?? 0)
          this.longest[key] = Math.max(this.longest[key] ?? 0, ttl)
        }
  }

  private see(name: string, type: string, state: string): void {
    const known = (this.seen[`${name} ${type}`] ??= [])
    const there = known.find((each) => each.state === state)
    if (there) delete there.gone
    else known.push({ state })
  }

  /** Whether a cache can have what it has by what was seen. */
  private couldHave(name: string, type: string, cache: Resolver['caches'][number], { floor, cap }: Resolver): boolean {
    const kept =
      cache[`${name} CNAME`]?.to !== undefined && type !== 'CNAME' ? cache[`${name} CNAME`]! : cache[`${name} ${type}`]
    if (!kept?.set) return this.seen[`${name} ${type}`]?.some((each) => each.state === 'none') === true
    const state = textOf({
      aliases: kept.to !== undefined && type !== 'CNAME' ? [{ owner: name, to: kept.to, ttl: kept.set.ttl }] : [],
      set: kept.set,
    })
    const fetched = kept.until - Math.min(Math.max(kept.set.ttl, floor), cap)
    // Servers of an earlier delegation have what the others gave up; that there were such is known, or not.
    const { from } = kept
    const isOfOld = from !== undefined && !this.world.file.ns.names.includes(from)
    if (isOfOld && ![...this.knownServers].some((names) => names.split(',').includes(from))) return false
    return (this.seen[`${name} ${type}`] ?? []).some(
      (each) => each.state === state && (isOfOld || each.gone === undefined || fetched <= each.gone),
    )
  }

  /** Holds a confirmation: its document, what came while it was made, and by how much its clock was wrong. */
  confirmed(exit: number, doc: any, came: readonly Came[], skew: number): void {
    const at = Date.parse(doc.at) / 1000 - skew
    const sets: Said[] = doc.sets.map((set: any) => ({
      ...set,
      name: nameOf(labelOf(set.asked ?? set.owner)),
      wildcard: set.asked !== undefined,
      until: set.until === null ? undefined : Date.parse(set.until) / 1000 - skew,
    }))
    const resolvers: string[] = doc.vantages
      .filter(({ role }: any) => role === 'resolver')
      .map(({ label }: any) => label)
    if (doc.zones[0].parents.length > 0) this.sawParent = true
    this.knownServers.add(this.world.file.ns.names.join())
    this.holdExit(exit, doc)
    this.holdOwn(doc.zones[0].own, came)
    const signature = doc.zones[0].remarks.some(({ what, wrong }: any) => what === 'signature' && wrong)
    for (const set of sets) this.holdSet(set, { at, came, resolvers, skew, signature })
    this.last = skew === 0 ? { doc: sets, events: this.events } : undefined
  }

  private holdExit(exit: number, { sets, zones }: any): void {
    const words = [...sets, ...zones[0].own].map(({ status }: any) => status)
    const has = (...some: string[]): boolean => words.some((word) => some.includes(word))
    const wanted =
      has('wrong', 'split', 'overdue', 'not-published') || zones[0].remarks.some(({ wrong }: any) => wrong)
        ? 1
        : has('unreachable')
          ? 3
          : has('settling')
            ? 4
            : 0
    if (exit !== wanted) this.failures.push(`it ends with ${exit}, and its statuses with ${wanted}`)
    const { servers, file } = this.world
    if (exit === 0 && file.ns.names.some((each) => servers[each]!.refuses || !servers[each]!.up))
      this.failures.push('all well, with a server that does not answer')
  }

  private holdOwn(own: any[], came: readonly Came[]): void {
    for (const { type, answers } of own)
      for (const { vantage, verdict } of answers) {
        const party = vantage.split('.')[0]
        const last = came.findLast((each) => each.party === party && each.name === '@' && each.type === type)
        if (last && (verdict === 'as-intended') !== (last.answer.kind === 'data'))
          this.failures.push(`${type} at ${party} is said to be ${verdict}`)
      }
  }

  private holdSet(
    set: Said,
    {
      at,
      came,
      resolvers,
      skew,
      signature,
    }: { at: number; came: readonly Came[]; resolvers: string[]; skew: number; signature: boolean },
  ): void {
    const { world } = this
    const { file } = world
    const { name, type, status } = set
    const key = `${name} ${type}`
    this.held[status] = (this.held[status] ?? 0) + 1
    const fail = (what: string): void =>
      void this.failures.push(
        `${key} is said to be ${status}${set.until === undefined ? '' : ` until +${set.until - at} s`} (${set.says}): ${what}`,
      )
    const of = (party: string): Answer | undefined =>
      came.findLast((each) => each.party === party && each.type === type && nameOf(each.name) === name)?.answer
    const isSeenRight = (party: string): boolean => {
      const answer = of(party)
      return answer !== undefined && isRight(file, name, type, answer, party.startsWith('ns'))
    }
    const isRightAnywhere = (party: string): boolean =>
      came.some(
        (each) =>
          each.party === party &&
          each.type === type &&
          nameOf(each.name) === name &&
          isRight(file, name, type, each.answer, false),
      )
    const servers = file.ns.names
    const had = servers.flatMap((each) => {
      const answer = of(each)
      return answer && ['data', 'nodata', 'nx'].includes(answer.kind) ? [textOf(answer)] : []
    })
    if (skew === 0) {
      if (servers.some((each) => of(each)?.set?.values.includes(GARBAGE))) this.garbled.add(key)
      if (had.length === servers.length)
        for (const each of this.seen[key] ?? []) if (!had.includes(each.state)) each.gone ??= at
      for (const state of had) this.see(name, type, state)
      if (!this.seen[key]?.some(({ state }) => state === stateOf(file, name, type)))
        this.see(name, type, stateOf(file, name, type))
    }
    const throughServers = servers.every(isSeenRight)
    if (!throughServers) delete this.through[key]
    const isFollow = this.follows && key === '@ A'
    // What a host puts there by itself is not played.
    if (this.follows && name === '@' && !file.sets[key]) return
    if (status === 'confirmed') {
      for (const party of servers) if (!isSeenRight(party)) fail(`${party} answers otherwise, or was not asked`)
      // Another cache of it may have answered a question about something else.
      for (const party of resolvers) if (!isRightAnywhere(party)) fail(`${party} answers otherwise, or was not asked`)
      const front = came.findLast((each) => each.name === FRONT && each.type === 'A' && each.answer.set)?.answer.set
      if (isFollow && file.sets[key] && !sameValues(front, file.sets[key])) fail('what it follows is elsewhere')
      const expired = servers.some((each) => (world.servers[each]!.copy?.signedUntil ?? Infinity) < at - 1)
      if (expired && world.parent.secured && skew === 0) fail('the signatures have expired')
      if (set.wildcard && skew === 0) this.holdNames(key, resolvers, fail)
    }
    if (skew !== 0) return
    if (status === 'unreachable') {
      const isHeard = (party: string): boolean => !['fail', 'refused', 'silent', undefined].includes(of(party)?.kind)
      if ([...servers, ...resolvers].every(isHeard) && !isFollow) fail('all replied')
    }
    if (status === 'not-published') {
      if (servers.some(isSeenRight)) fail('a server has it')
      if (servers.some((each) => of(each)?.kind === 'silent') && of('ns0')?.kind === 'silent')
        fail('nothing is known of the primary')
    }
    for (const { verdict, vantage, extra } of set.answers) {
      const known = [...this.ever[key]!].map((state) => state.split('/')[0]!)
      const isKnown =
        extra.length === 0 ||
        known.some((values) =>
          extra.every((one) => values.includes(one.replace(/^(?:CNAME )?(\w+)\.hollowmere.*/, '$1'))),
        )
      if (verdict === 'earlier-answer' && !isKnown) fail(`${vantage}: no state of it was ever that`)
    }
    const strange = set.answers.some(
      ({ verdict, role }) => role === 'resolver' && ['different', 'aliased', 'absent'].includes(verdict),
    )
    if (status === 'settling') this.holdSettling(set, at, of, throughServers, strange, fail)
    if (['wrong', 'overdue', 'split'].includes(status) && !signature && !isFollow)
      this.holdFault(set, at, strange, fail)
    this.holdPromise(set, at, fail)
    if (throughServers) this.through[key] ??= at
  }

  /** A wildcard is through where no cache has a name as it was answered before, as far as that was known. */
  private holdNames(key: string, resolvers: readonly string[], fail: (what: string) => void): void {
    const [name, type] = key.split(' ') as [string, string]
    const { file } = this.world
    const exists = Object.keys(file.sets).some((each) => each.split(' ')[0] === name)
    for (const who of exists ? [] : resolvers) {
      const resolver = this.world.resolvers[who]!
      if (resolver.floor > 0 || resolver.denialFloor > 0 || `${key}` in resolver.overrides) continue
      for (const cache of resolver.caches) {
        const kept = cache[key]
        if (!kept?.set || !isKept(resolver, kept, this.world.now) || !this.couldHave(name, type, cache, resolver))
          continue
        if (textOf({ aliases: [], set: kept.set }).split('/')[0] !== stateOf(file, name, type).split('/')[0])
          fail(`${who} has ${key} as it was before`)
      }
    }
  }

  /** By the end that was said, all of it is right, if what cannot be seen from outside is well. */
  private holdSettling(
    { name, type, until, wildcard, answers }: Said,
    at: number,
    of: (party: string) => Answer | undefined,
    throughServers: boolean,
    isStrange: boolean,
    fail: (what: string) => void,
  ): void {
    const { world } = this
    const key = `${name} ${type}`
    if (until === undefined) return
    const asked = throughServers ? answers.filter(({ role }) => role === 'resolver').map(({ vantage }) => vantage) : []
    const later = copyOf(world)
    for (const server of Object.values(later.servers)) {
      if (
        Number.isFinite(server.nextCheck) &&
        (server.blocked || server.blockedUntil > 0 || !server.up || server.refuses)
      )
        server.nextCheck = Math.min(server.nextCheck, until)
      server.blocked = false
      server.up = true
      server.refuses = false
    }
    for (const [who, resolver] of Object.entries(later.resolvers)) {
      const verdict = answers.find(({ vantage }) => vantage === who)?.verdict
      for (const cache of resolver.caches) {
        const isOpen = verdict !== undefined && verdict !== 'as-intended' && of(who)?.kind !== 'fail'
        // Of one that is right, or fails, nothing is known of what other caches of it have; nor that it has a state which was there unseen.
        const forget =
          (!isOpen && !wildcard) ||
          (!this.couldHave(name, type, cache, resolver) && !(isOpen && resolver.caches.length === 1)) ||
          (isStrange && (cache[key]?.until ?? cache[`${name} CNAME`]?.until ?? 0) > until) ||
          (wildcard && (resolver.floor > 0 || resolver.denialFloor > 0))
        if (forget) for (const each of [key, `${name} CNAME`, `${name} *`]) delete cache[each]
      }
      resolver.cutOff = false
      resolver.failed = {}
      // An override with a state that was there, and a TTL that a cache could have, looks like a cache.
      for (const [owner, content] of Object.entries(resolver.overrides))
        if (content && [...(this.ever[owner] ?? [])].some((state) => state.startsWith(`${content.values.join()}/`)))
          delete resolver.overrides[owner]
    }
    pass(later, Math.ceil(until))
    if (!this.isRightIn(later, name, type, asked)) fail('by then it is not right')
    const longest = Math.max(300, this.longest[key] ?? 0)
    const since = this.through[key] ?? at
    const kept = Object.values(world.resolvers).flatMap(({ caches }) =>
      caches.flatMap((cache) => [key, `${name} CNAME`, `${name} *`].map((each) => cache[each]?.until ?? 0)),
    )
    const { refresh, retry } = world.servers.ns1!.copy!
    const delegation = this.delegations > 0 ? world.parent.ttl + 3600 : 0
    const allowed = Math.max(
      ...kept,
      since + longest + delegation,
      throughServers ? 0 : at + Math.max(refresh, 3600) + Math.max(retry, 600),
      at + 300,
      at + longest + delegation,
    )
    if (until > allowed + 1) fail(`what was seen allows no more than +${allowed - at} s`)
  }

  private isRightIn(later: World, name: string, type: string, resolvers: readonly string[]): boolean {
    const { file } = later
    if (!file.ns.names.every((each) => isRight(file, name, type, atServer(later.servers[each]!, name, type), true)))
      return false
    return resolvers.every((who) =>
      later.resolvers[who]!.caches.every((_, which) =>
        isRight(file, name, type, atResolver(later, later.resolvers[who]!, name, type, which), false),
      ),
    )
  }

  /** Mere waiting, with everything that ails as it is, does not mend it. */
  private holdFault(
    { name, type, status, answers, wildcard }: Said,
    at: number,
    isStrange: boolean,
    fail: (what: string) => void,
  ): void {
    const later = copyOf(this.world)
    const failed = Object.values(later.servers).some(
      ({ blockedUntil, blocked, copy }) => blocked || blockedUntil > at - (copy?.refresh ?? 0) - 2 * (copy?.retry ?? 0),
    )
    pass(later, at + 30 * DAY)
    const key = `${name} ${type}`
    const asked = answers.filter(({ role }) => role === 'resolver').map(({ vantage }) => vantage)
    const unseen = isStrange && answers.some(({ extra }) => extra.includes(GARBAGE)) && !this.garbled.has(key)
    if (
      this.isRightIn(later, wildcard ? `again.${name.slice(2)}` : name, type, asked) &&
      !(status === 'overdue' && (failed || this.hasGoneBack)) &&
      !unseen
    )
      fail('mere waiting mends it')
  }

  /** What was to be through by then, and is not, is overdue, where nothing happened in between. */
  private holdPromise(
    { name, type, status, until, atMost, answers }: Said,
    at: number,
    fail: (what: string) => void,
  ): void {
    const key = `${name} ${type}`
    const before = this.promised[key]
    const open = answers
      .filter(({ role, verdict }) => role === 'resolver' && verdict === 'earlier-answer')
      .map(({ vantage }) => vantage)
    if (
      before &&
      before.events === this.events &&
      at > before.until + 1 &&
      status === 'settling' &&
      open.some((each) => before.vantages.includes(each))
    )
      fail(`it was to be through by +${before.until - at} s`)
    const plain = open.filter((each) => {
      const { floor, denialFloor, caches, stale } = this.world.resolvers[each]!
      return floor + denialFloor === 0 && caches.length === 1 && !stale
    })
    if (status === 'settling' && !atMost && until !== undefined && plain.length > 0) {
      if (!before || before.events !== this.events) this.promised[key] = { until, events: this.events, vantages: plain }
    } else delete this.promised[key]
  }

  /** A change that were made now is through by when timing says so, and not long before that. */
  timed(doc: any): void {
    const { world } = this
    for (const { owner, type, ttl, throughBy, underWay } of doc.sets) {
      const name = labelOf(owner).replace('*', 'x')
      const key = `${name} ${type}`
      if (!ALL_TYPES.includes(type) || (this.follows && key === '@ A')) continue
      const end = Date.parse(throughBy) / 1000
      const fail = (what: string): void =>
        void this.failures.push(`timing ${key}: through by +${end - world.now} s: ${what}`)
      const delegation = this.delegations > 0 ? world.parent.ttl + 3600 : 0
      if (end > world.now + (this.longest[key] ?? 0) + Math.max(delegation, 0) + 1)
        fail(`no more than +${(this.longest[key] ?? 0) + delegation} s is possible`)
      this.holdAgreement(key, underWay, fail)
      const parties = [
        ...world.file.ns.names,
        ...world.parent.names,
        ...Object.values(world.resolvers).flatMap(({ cut }) => cut?.names ?? []),
      ]
      const isKnown = parties.every((each) => {
        const { copy } = world.servers[each]!
        return (
          !copy ||
          stateOf(copy, name, type) === stateOf(world.file, name, type) ||
          this.seen[key]?.some(({ state }) => state === stateOf(copy, name, type))
        )
      })
      const isKnownCut = Object.values(world.resolvers).every(
        ({ cut }) => !cut || this.knownServers.has(cut.names.join()),
      )
      const isDelegated = [...world.parent.names].sort().join() === [...world.file.ns.names].sort().join()
      if (ttl !== null && isKnown && isDelegated && (this.delegations === 0 || this.sawParent) && isKnownCut)
        this.holdThrough(name, type, ttl, end, fail)
    }
  }

  /** Confirm and timing say the same of a change that is under way. */
  private holdAgreement(key: string, underWay: any, fail: (what: string) => void): void {
    const said =
      this.last?.events === this.events ? this.last.doc.find(({ name, type }) => `${name} ${type}` === key) : undefined
    const isFloored = Object.values(this.world.resolvers).some(({ floor, denialFloor }) => floor + denialFloor > 0)
    if (
      said?.status !== 'settling' ||
      said.atMost ||
      said.until === undefined ||
      isFloored ||
      said.until <= this.world.now
    )
      return
    if (
      !said.answers.some(({ verdict }) => verdict === 'earlier-answer') ||
      said.answers.some(({ role, verdict }) => role === 'authoritative' && verdict !== 'as-intended')
    )
      return
    const until = underWay?.until ? Date.parse(underWay.until) / 1000 : undefined
    if (until === undefined || Math.abs(until - said.until) > 1)
      fail(
        `confirm said +${said.until - this.world.now} s, and timing ${until === undefined ? 'nothing' : `+${until - this.world.now} s`}`,
      )
  }

  private holdThrough(name: string, type: string, ttl: number, end: number, fail: (what: string) => void): void {
    const later = copyOf(this.world)
    const set: RecordSet = { ttl, values: [NEW[type]!] }
    const wild = `*.${name.split('.').slice(1).join('.')} ${type}`
    const owner = later.file.sets[`${name} ${type}`] ? `${name} ${type}` : wild
    for (const resolver of Object.values(later.resolvers))
      for (const which of resolver.caches.keys()) atResolver(later, resolver, name, type, which)
    for (const each of later.file.ns.names) {
      const { copy } = later.servers[each]!
      if (copy)
        later.servers[each]!.copy = {
          ...copyOf(later.file),
          serial: copy.serial,
          sets: { ...later.file.sets, [owner]: set },
        }
    }
    for (const server of Object.values(later.servers))
      if (!later.file.ns.names.includes('ns0') || !server.isPrimary) server.blocked = true
    later.file.sets[owner] = set
    pass(later, Math.ceil(end))
    for (const [who, resolver] of Object.entries(later.resolvers)) {
      const { floor, denialFloor, stale, cutOff, overrides, caches } = resolver
      if (floor + denialFloor > 0 || stale || cutOff || Object.keys(overrides).length > 0) continue
      for (const [which, cache] of caches.entries()) {
        const isKnown = this.couldHave(name, type, this.world.resolvers[who]!.caches[which]!, resolver)
        const answer = atResolver(later, resolver, name, type, which)
        void cache
        if (
          isKnown &&
          ['data', 'nodata', 'nx'].includes(answer.kind) &&
          !isRight(later.file, name, type, answer, false)
        )
          fail(`${who} has the earlier answer then`)
      }
    }
  }
}
