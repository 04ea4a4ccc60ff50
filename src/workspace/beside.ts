/** What the workspace keeps beside zone files: private keys (`keys/`, for their owner's eyes alone) and texts of policies (`policies/`). */

import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import type { FileBeside } from '../core/change/change-set.ts'
import { keyText } from '../core/mail/dkim/key.ts'
import { bare, foldName, type Name } from '../core/names/name.ts'
import type { Refused } from '../core/result.ts'
import type { KeptKey, KeptPolicy } from '../core/rules/rule.ts'
import type { Unfinished } from './journal.ts'
import { systemText, Trouble } from './trouble.ts'

const fileName = (name: Name): string => bare(foldName(name)).replace(/[^a-z0-9._-]/g, '_')
const KEYS = 'keys'
const KEY_FILE = /^(?=.+\._domainkey\..)(.+)\.pem$/
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
  throw new Error(`a key of type ${key.asymmetricKeyType}`)
}

/** The key record of the private key that is kept for a selector; undefined where there is none. Trouble where it cannot be read. */
export async function keptKeyText(folder: string, owner: Name): Promise<string | undefined> {
  const file = keyFile(folder, owner)
  if (!existsSync(file)) return undefined
  const half = await publicHalf(file)
  if ('refused' in half) throw new Trouble(`${file} cannot be used: ${half.refused}`)
  return half.text
}

/** Where the public half of a private key is kept: so that the private one need not be read for what can be seen by everybody. */
const publicFile = (keyPath: string): string => keyPath.replace(/\.pem$/, '.public.txt')

/** The key record of a private key's other half: as it is kept beside it, unless the private key is newer. */
async function publicHalf(file: string, at = (path: string): string => path): Promise<{ text: string } | Refused> {
  try {
    const half = at(publicFile(file))
    if (existsSync(half) && statSync(half).mtimeMs >= statSync(at(file)).mtimeMs)
      return { text: readFileSync(half, 'utf8').trim() }
    return { text: await publicText(readFileSync(at(file), 'utf8')) }
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException
    return {
      refused:
        code !== undefined && /^E[A-Z]+$/.test(code)
          ? systemText(error)
          : 'it is not an RSA or Ed25519 private key (PEM)',
    }
  }
}

/** The files of a folder that match, with those that an unfinished change brings; none where there is no such folder. */
function filesIn(folder: string, pattern: RegExp, unfinished: Unfinished): { file: string; name: string }[] {
  let names: string[] = []
  try {
    names = readdirSync(folder)
  } catch {
    // There may be none yet.
  }
  const coming = unfinished.namesIn(folder).filter((each) => !names.includes(each))
  return [...names, ...coming].sort().flatMap((each) => {
    const match = pattern.exec(each)
    return match ? [{ file: join(folder, each), name: `${match[1]}.` }] : []
  })
}

/** The private keys of a workspace. Their halves are read when they are asked for. `shown` is how messages name a path. */
export function readKeys(folder: string, shown: (path: string) => string, unfinished: Unfinished): KeptKey[] {
  return filesIn(join(folder, KEYS), KEY_FILE, unfinished).map(({ file, name }) => ({
    owner: name,
    file: shown(file),
    async publicHalf() {
      const half = await publicHalf(file, (path) => unfinished.at(path))
      return 'refused' in half ? half : { key: half.text.slice(half.text.indexOf('p=') + 2) }
    },
  }))
}

/** The texts of policies that a workspace keeps. */
export function readPolicies(folder: string, shown: (path: string) => string, unfinished: Unfinished): KeptPolicy[] {
  return filesIn(join(folder, POLICIES), POLICY_FILE, unfinished).map(({ file, name }) => ({
    domain: name,
    file: shown(file),
    text: readFileSync(unfinished.at(file), 'utf8'),
  }))
}

/** The text of the policy that is kept for a domain. */
export function keptPolicy(folder: string, domain: Name): string | undefined {
  const file = policyFile(folder, domain)
  return existsSync(file) ? readFileSync(file, 'utf8') : undefined
}

/** The files that a new private key is: itself and its public half; and what keeps them out of version control. */
export function keyFiles(folder: string, owner: Name, { pem, text }: MadeKey): FileBeside[] {
  const path = keyFile(folder, owner)
  return [
    ...ignoreFile(folder),
    {
      path,
      content: pem,
      mode: 0o600,
      folderMode: 0o700,
      what: 'Private key (readable by you only; move it to your mail server)',
    },
    // A private key that was taken away may have left it.
    { path: publicFile(path), content: `${text}\n`, before: contentOf(publicFile(path)) },
  ]
}

/** What keeps private keys out of version control, where it is not there yet. */
export function ignoreFile(folder: string): FileBeside[] {
  const path = join(folder, KEYS, '.gitignore')
  return existsSync(path)
    ? []
    : [{ path, content: '# Private keys stay on this machine.\n*\n!.gitignore\n', folderMode: 0o700 }]
}

/** The text of a domain’s policy. */
export function policyFileOf(folder: string, domain: Name, text: string): FileBeside {
  const path = policyFile(folder, domain)
  return { path, content: text, before: contentOf(path), what: 'Policy' }
}

const contentOf = (path: string): Uint8Array | undefined => (existsSync(path) ? readFileSync(path) : undefined)
