/** Certificates for tests, made on the spot by the openssl program: an authority, and a server's for one name. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

export interface Certificates {
  /** The authority's file. */
  authority: string
  key: string
  certificate: string
  /** Files of the server's key and certificate. */
  keyFile: string
  certificateFile: string
}

export function certificates(name: string): Certificates {
  const folder = mkdtempSync(join(tmpdir(), 'bramblefront-certificates-'))
  const openssl = (...args: string[]): void => void execFileSync('openssl', args, { cwd: folder, stdio: 'pipe' })
  const key = ['-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:P-256', '-nodes']
  openssl(
    'req',
    '-x509',
    ...key,
    '-keyout',
    'ca.key',
    '-out',
    'ca.pem',
    '-days',
    '2',
    '-subj',
    '/CN=Bramblefront tests',
  )
  openssl('req', '-new', ...key, '-keyout', 'server.key', '-out', 'server.csr', '-subj', `/CN=${name}`)
  writeFileSync(join(folder, 'extensions'), `subjectAltName=DNS:${name}\n`)
  openssl(
    'x509',
    '-req',
    '-in',
    'server.csr',
    '-CA',
    'ca.pem',
    '-CAkey',
    'ca.key',
    '-CAcreateserial',
    '-out',
    'server.pem',
    '-days',
    '2',
    '-extfile',
    'extensions',
  )
  const path = (file: string): string => join(folder, file)
  return {
    authority: path('ca.pem'),
    key: readFileSync(path('server.key'), 'utf8'),
    certificate: readFileSync(path('server.pem'), 'utf8'),
    keyFile: path('server.key'),
    certificateFile: path('server.pem'),
  }
}
