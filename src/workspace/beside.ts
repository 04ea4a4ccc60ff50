/** What the workspace keeps beside zone files: private keys (`keys/`, for their owner's eyes alone) and texts of policies (`policies/`). */
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs'
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
export const policyFile = (folder: string, domain: Name): string => join(folder, POLICIES, `${fileName(domain)}.mta-sts.txt`)

export interface MadeKey {
  /** The private key: PKCS #8 as PEM. */
  pem: string
  /** The key record of its public half. */
  text: string
}

/** Makes a key pair: RSA of so many bits, or Ed25519. */
export async function makeKey(kind: 'rsa' | 'ed25519', bits: number): Promise<MadeKey> {
  const { generateKeyPairSync } = await import('node:crypto')
  const { privateKey } = kind === 'rsa' ? generateKeyPairSync('rsa', { modulusLength: bits }) : generateKeyPairSync('ed25519')
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

/** The key record of the private key that is kept for a selector; undefined where there is none. */
export async function keptKeyText(folder: string, owner: Name): Promise<string | undefined> {
  const file = keyFile(folder, owner)
  return existsSync(file) ? textOfFile(file, file) : undefined
}

async function textOfFile(file: string, shown: string): Promise<string> {
  try {
    return await publicText(readFileSync(file, 'utf8'))
  } catch (error) {
    throw new Trouble(`${shown} cannot be used as a private key of RSA or Ed25519: ${systemText(error)}`)
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

/** The private keys of a workspace, by their public halves. `shown` is how messages name a path. */
export async function readKeys(folder: string, shown: (path: string) => string): Promise<KeptKey[]> {
  const found: KeptKey[] = []
  for (const { file, name } of filesIn(join(folder, KEYS), KEY_FILE)) {
    const text = await textOfFile(file, shown(file))
    found.push({ owner: name, file: shown(file), key: text.slice(text.indexOf('p=') + 2) })
  }
  return found
}

/** The texts of policies that a workspace keeps. */
export function readPolicies(folder: string, shown: (path: string) => string): KeptPolicy[] {
  return filesIn(join(folder, POLICIES), POLICY_FILE).map(({ file, name }) => ({ domain: name, file: shown(file), text: readFileSync(file, 'utf8') }))
}

/** The text of the policy that is kept for a domain. */
export function keptPolicy(folder: string, domain: Name): string | undefined {
  const file = policyFile(folder, domain)
  return existsSync(file) ? readFileSync(file, 'utf8') : undefined
}

/** Writes a file beside the zone. One that is secret must not be there yet, and only its owner may read it. Returns what takes it back. */
export function putBeside({ path, text, secret }: { path: string; text: string; secret: boolean }): () => void {
  const before = existsSync(path) ? readFileSync(path) : undefined
  if (secret && before) throw new Trouble(`${path} is there already; a key is never overwritten`)
  try {
    mkdirSync(dirname(path), { recursive: true, mode: secret ? 0o700 : 0o777 })
    if (secret) {
      const ignore = join(dirname(path), '.gitignore')
      if (!existsSync(ignore)) createFile(ignore, IGNORED)
      createFile(path, text, 0o600)
    } else replaceFile(path, text)
  } catch (error) {
    throw new Trouble(`cannot write ${path}: ${systemText(error)}; nothing was changed`)
  }
  return () => {
    if (before) replaceFile(path, before)
    else rmSync(path, { force: true })
  }
}
