// Loaded before the program: at one of its file calls the disk takes less than it is given, or fails, or the program is killed or stopped there.
const fs = require('node:fs')
const { syncBuiltinESMExports } = require('node:module')
const { FAULT_KIND: kind, FAULT_AT: at } = process.env
const signal = { kill: 'SIGKILL', stop: 'SIGSTOP' }[kind]
const hit = () => process.kill(process.pid, signal)
let calls = 0
const isOurs = (descriptor) => descriptor > 2
const isIt = () => ++calls === Number(at)
const fail = () => Object.assign(new Error(`${kind}: injected`), { code: kind, syscall: 'write' })
const { writeSync, fsyncSync } = fs
fs.writeSync = (descriptor, octets, offset, length, ...rest) => {
  if (!isOurs(descriptor) || typeof octets === 'string' || !isIt())
    return writeSync(descriptor, octets, offset, length, ...rest)
  if (kind !== 'short' && !signal) throw fail()
  if (kind === 'stop') hit()
  const written = writeSync(descriptor, octets, offset, Math.max(1, length >> 1), ...rest)
  if (kind === 'kill') hit()
  return written
}
if (kind !== 'short')
  fs.fsyncSync = (descriptor) => {
    if (!isIt()) return fsyncSync(descriptor)
    if (!signal) throw fail()
    hit()
    return fsyncSync(descriptor)
  }
if (signal) {
  const hooked = (name, changes = () => true) => {
    const call = fs[name]
    fs[name] = (...args) => {
      if (changes(...args) && isIt()) hit()
      return call(...args)
    }
  }
  for (const name of [
    'renameSync',
    'linkSync',
    'rmSync',
    'mkdirSync',
    'ftruncateSync',
    'truncateSync',
    'futimesSync',
    'fchmodSync',
    'fchownSync',
    'closeSync',
  ])
    hooked(name)
  hooked('openSync', (_path, flags) => flags !== 'r' && flags !== undefined)
}
process.on('exit', () => {
  if (calls < Number(at)) process.stderr.write('\nno such call\n')
})
syncBuiltinESMExports()
