// Loaded before the program: makes the disk take less than it is given, or fail, at one of its calls.
const fs = require('node:fs')
const { syncBuiltinESMExports } = require('node:module')
const { FAULT_KIND: kind, FAULT_AT: at } = process.env
let calls = 0
const isOurs = (descriptor) => descriptor > 2
const fail = () => Object.assign(new Error(`${kind}: injected`), { code: kind, syscall: 'write' })
const { writeSync, fsyncSync } = fs
fs.writeSync = (descriptor, octets, offset, length, ...rest) => {
  if (!isOurs(descriptor) || typeof octets === 'string' || ++calls !== Number(at))
    return writeSync(descriptor, octets, offset, length, ...rest)
  if (kind !== 'short') throw fail()
  return writeSync(descriptor, octets, offset, Math.max(1, length >> 1), ...rest)
}
if (kind !== 'short') {
  fs.fsyncSync = (descriptor) => {
    if (++calls === Number(at)) throw fail()
    return fsyncSync(descriptor)
  }
}
process.on('exit', () => {
  if (calls < Number(at)) process.stderr.write('\nno such call\n')
})
syncBuiltinESMExports()
