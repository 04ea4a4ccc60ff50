/** What the workspace keeps beside zone files: private keys (`keys/`, for their owner's eyes alone) and texts of policies (`policies/`). */
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { keyText } from '../core/mail/dkim/key.ts'
import { bare, foldName, type Name } from '../core/names/name.ts'
import type { KeptKey, KeptPolicy } from '../core/rules/rule.ts'
import { systemText, Trouble } from './trouble.ts'
import { createFile, replaceFile } from './write.ts'

const fileName = (name: Name): string => bare(foldName(name)).replace(/[^a-z0-9._-]/g, '_')
const KEYS = 'keys'
/** What keeps private keys out of version control. */
export const IGNORED = '# Private keys stay on this machine.\n*\n!.gitignore\n'
const KEY_FILE = /^(.+\._domainkey\..+)\.pem$/
const POLICIES = 'policies'
const POLICY_FILE = /^(.+)\.mta-sts\.txt$/

/** Where the private key of a selector (`s1._domainkey.hollowmere.example.`) is kept. */
export const keyFile = (folder: string, owner: Name): string => join(folder, KEYS, `${fileName(owner)}.pem`)
/** Where the text of a domain's MTA-STS policy is kept. */
export const policyFile = (folder: string, domain: Name): string =>
  join(folder, POLICIES, `${fileName(domain)}.mta-sts.txt`)

export interface MadeKey {
  /** The private key: PKCS #8 as PEM. */
  pem: string
  /** The key record of its public half. */
  text: string
}

/** Makes a key pair: RSA of so many bits, or Ed25519. */
export async function makeKey(kind: 'rsa' | 'ed25519', bits: number): Promise<MadeKey> {
  const { generateKeyPairSync } = await import('node:crypto')
  const { privateKey } =
    kind === 'rsa' ? generateKeyPairSync('rsa', { modulusLength: bits }) : generateKeyPairSync('ed25519')
  const pem = privateKey.export({ type: 'pkcs8', format: 'pem' }).toString()
  return { pem, text: await publicText(pem) }
}

/** The key record of a private key's public half. Throws where the text is no private key of RSA or Ed25519. */
export async function publicText(pem: string): Promise<string> {
  const { createPrivateKey, createPublicKey } = await import('node:crypto')
  const key = createPublicKey(createPrivateKey(pem))
  const info = key.export({ type: 'spki', format: 'der' })
  if (key.asymmetricKeyType === 'rsa') return keyText('rsa', info)
  if (key.asymmetricKeyType === 'ed25519') return keyText('ed25519', info.subarray(-32))
  throw new Error(`a key of the type ${key.asymmetricKeyType}`)
}

/** The key record of the private key that is kept for a selector; undefined where there is none. Trouble where it cannot be read. */
export async function keptKeyText(folder: string, owner: Name): Promise<string | undefined> {
  const file = keyFile(folder, owner)
  if (!existsSync(file)) return undefined
  const half = await publicHalf(file)
  if ('unreadable' in half) throw new Trouble(`${file} cannot be used: ${half.unreadable}`)
  return half.text
}

/** Where the public half of a private key is kept: so that the private one need not be read for what can be seen by everybody. */
const publicFile = (keyPath: string): string => keyPath.replace(/\.pem$/, '.public.txt')

/** The key record of a private key's other half: as it is kept beside it, unless the private key is newer. */
async function publicHalf(file: string): Promise<{ text: string } | { unreadable: string }> {
  try {
    const half = publicFile(file)
    if (existsSync(half) && statSync(half).mtimeMs >= statSync(file).mtimeMs)
      return { text: readFileSync(half, 'utf8').trim() }
    return { text: await publicText(readFileSync(file, 'utf8')) }
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException
    return {
      unreadable:
        code !== undefined && /^E[A-Z]+$/.test(code)
          ? systemText(error)
          : 'it is no private key of RSA or Ed25519 (PEM)',
    }
  }
}

/** The files of a folder that match, none where there is no such folder. */
function filesIn(folder: string, pattern: RegExp): { file: string; name: string }[] {
  let names: string[]
  try {
    names = readdirSync(folder)
  } catch {
    return []
  }
  return names.sort().flatMap((each) => {
    const match = pattern.exec(each)
    return match ? [{ file: join(folder, each), name: `${match[1]}.` }] : []
  })
}

/** The private keys of a workspace. Their halves are read when they are asked for. `shown` is how messages name a path. */
export function readKeys(folder: string, shown: (path: string) => string): KeptKey[] {
  return filesIn(join(folder, KEYS), KEY_FILE).map(({ file, name }) => ({
    owner: name,
    file: shown(file),
    async publicHalf() {
      const half = await publicHalf(file)
      return 'unreadable' in half ? half : { key: half.text.slice(half.text.indexOf('p=') + 2) }
    },
  }))
}

/** The texts of policies that a workspace keeps. */
export function readPolicies(folder: string, shown: (path: string) => string): KeptPolicy[] {
  return filesIn(join(folder, POLICIES), POLICY_FILE).map(({ file, name }) => ({
    domain: name,
    file: shown(file),
    text: readFileSync(file, 'utf8'),
  }))
}

/** The text of the policy that is kept for a domain. */
export function keptPolicy(folder: string, domain: Name): string | undefined {
  const file = policyFile(folder, domain)
  return existsSync(file) ? readFileSync(file, 'utf8') : undefined
}

/** A file that is written together with a zone: a private key, the text of a policy. */
export interface BesideFile {
  path: string
  text: string
  /** It must not be there yet; only its owner may read it. */
  secret: boolean
  /** Of a private key: the key record of its other half, which is kept beside it. */
  publicText?: string
}

/** Writes a file beside the zone, and returns what takes it back. */
export function putBeside({ path, text, secret, publicText: half }: BesideFile): () => void {
  const before = existsSync(path) ? readFileSync(path) : undefined
  if (secret && before) throw new Trouble(`${path} is there already; a key is never overwritten`)
  try {
    mkdirSync(dirname(path), { recursive: true, mode: secret ? 0o700 : 0o777 })
    if (secret) {
      const ignore = join(dirname(path), '.gitignore')
      if (!existsSync(ignore)) createFile(ignore, IGNORED)
      createFile(path, text, 0o600)
      if (half !== undefined) replaceFile(publicFile(path), `${half}\n`)
    } else replaceFile(path, text)
  } catch (error) {
    if (secret && systemText(error) !== systemText({ code: 'EEXIST' })) rmSync(path, { force: true })
    throw new Trouble(`cannot write ${path}: ${systemText(error)}; nothing was changed`)
  }
  return () => {
    if (before) replaceFile(path, before)
    else for (const each of [path, ...(half === undefined ? [] : [publicFile(path)])]) rmSync(each, { force: true })
  }
}
